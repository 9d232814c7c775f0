# make demo   installs what is missing, builds, and serves the example
# make test   installs what is missing and runs every test
# make drill  puts the program under load and faults, for some minutes
# make build  leaves the program at bin/slowreveal
SHELL := /bin/bash
export CGO_ENABLED := 0

GO_SOURCES := $(shell find . -name '*.go' -not -path './web/node_modules/*' -not -path './.data/*') go.mod go.sum
CORE_SOURCES := $(shell find core cmd/corewasm -name '*.go' -not -name '*_test.go') go.mod go.sum
WEB_SOURCES := $(shell find web/src web/public -type f) web/index.html web/vite.config.ts web/vite.client.config.ts web/tsconfig.json
PROFILE := -pgo $(CURDIR)/cmd/slowreveal/default.pgo

# On arm64 the compiler may fuse multiplications and additions; then films had other bytes there than on amd64.
UNFUSED := $(if $(filter arm64,$(shell go env GOARCH)),-gcflags=all=-d=fmahash=n)

.PHONY: demo test format build needs generate bench drill profile figures screenshots audit clean

demo: needs build
	bin/slowreveal serve --demo

test: needs build
	scripts/test.sh

build: bin/slowreveal bin/stepread

# Lays out Go and TypeScript; make test tells where that has not been done.
format: web/node_modules/.installed
	scripts/format.sh
	cd web && npx prettier --write --log-level warn .

needs:
	scripts/needs.sh

bin/slowreveal: $(GO_SOURCES) web/dist/index.html
	mkdir -p bin
	go build -trimpath $(UNFUSED) -o $@ ./cmd/slowreveal 2> bin/build.txt || { cat bin/build.txt; exit 1; }

# The reader of STEP and IGES, a program of its own around Debian's OpenCascade.
KERNEL := TKXDESTEP TKXDEIGES TKSTEP TKSTEPBase TKIGES TKXSBase TKXCAF TKLCAF TKCAF TKCDF TKMesh TKTopAlgo TKBRep TKGeomBase TKG3d TKG2d TKMath TKernel

bin/stepread: $(wildcard native/stepread/*)
	mkdir -p bin
	g++ -std=c++17 -O2 -Wall -Wextra -isystem /usr/include/opencascade native/stepread/*.cpp -o $@ $(KERNEL:%=-l%)

web/node_modules/.installed: web/package.json web/package-lock.json
	cd web && npm ci --no-audit --no-fund --loglevel=error
	echo 'module node_modules_are_not_ours' > web/node_modules/go.mod
	touch $@

web/src/core/core.wasm: $(CORE_SOURCES)
	GOOS=js GOARCH=wasm go build -trimpath -ldflags='-s -w' -o $@ ./cmd/corewasm
	cp "$$(go env GOROOT)/lib/wasm/wasm_exec.js" web/src/core/wasm_exec.js
	chmod 644 web/src/core/wasm_exec.js $@

web/dist/index.html: $(WEB_SOURCES) web/src/core/core.wasm web/node_modules/.installed
	cd web && npx vite build --logLevel warn && npx vite build --logLevel warn -c vite.client.config.ts
	GOOS=js GOARCH=wasm go build -trimpath -tags player -ldflags='-s -w' -o web/dist/client/player.wasm ./cmd/corewasm
	touch web/dist/.keep

# What is written by program and kept: the API's description, the TypeScript
# types made from it and from what the page asks of the core, and the schema of the reveal document.
generate: web/node_modules/.installed
	go run ./cmd/slowreveal openapi > web/openapi.gen.json
	go run ./cmd/slowreveal schema > docs/reveal.schema.json
	go run ./cmd/slowreveal checks > docs/proof.md
	go run ./cmd/slowreveal typescript > web/src/core/core.gen.ts
	cd web && npx openapi-typescript openapi.gen.json -o src/api/schema.gen.ts

bench: needs build
	go test -run '^$$' -bench . -benchmem ./core/... ./prove
	go test $(PROFILE) -run '^$$' -bench . -benchmem ./render/...
	go test $(PROFILE) -tags purego -run '^$$' -bench 'Torture|DemoFilm' ./render # without vectors
	go run ./bench

# What the compiler is told of the renderer's work, by itself when it builds the program (Go's
# profile-guided optimisation): films take 5 % less time, and are the same to the byte. Benchmarks of the
# renderer are built like the program.
profile: build
	go test ./render -run '^$$' -bench 'DemoFrame|DemoFilm|StillCamera|Torture' -benchtime 3s -cpuprofile $(CURDIR)/bin/vectors.pgo -o bin/render.test
	go test -tags purego ./render -run '^$$' -bench 'DemoFilm|Torture' -benchtime 3s -cpuprofile $(CURDIR)/bin/plain.pgo -o bin/render.test
	go tool pprof -proto bin/vectors.pgo bin/plain.pgo > cmd/slowreveal/default.pgo

# The core and the renderer as arm64 has them; load, faults and bad input, for some minutes: docs/reliability.md; then a monkey, for an hour or two. Short forms of
# all of it are part of the tests (go test -short).
drill: needs build
	which qemu-aarch64-static > /dev/null || $$([ "$$(id -u)" = 0 ] || echo sudo) apt-get install -y -q qemu-user-static
	scripts/arm64.sh core/space core/film core/solid core/look core/clearance render
	scripts/fuzz.sh 300000x
	go build -o bin/drill ./drill
	bin/drill
	go test -c -o bin/monkey ./e2e
	SLOWREVEAL_STEPREAD=$(CURDIR)/bin/stepread go test -timeout 6h ./... # at full length
	go test -timeout 1h -tags purego ./render ./sequence
	cd e2e && for deeds in 1,1000,demo 2,700,flat 3,300,thousand; do \
	  SLOWREVEAL_STEPREAD=$(CURDIR)/bin/stepread SLOWREVEAL_MONKEY=$$deeds ../bin/monkey -test.run '^TestAMonkey$$' -test.timeout 4h -test.v || exit 1; done

# The pictures of docs/screenshots, from a fresh demo.
screenshots: needs build
	scripts/screenshots.sh

audit:
	-go run golang.org/x/vuln/cmd/govulncheck@v1.1.4 ./...
	-cd web && npm audit --omit=dev

clean:
	rm -rf bin web/dist/* web/src/core/core.wasm web/src/core/wasm_exec.js
	touch web/dist/.keep

# Figures that need a browser or Node; they are printed, nothing is checked.
figures: needs build
	SLOWREVEAL_FIGURES=1 go test ./e2e -run TestFigures -v | grep -v '^=== '
