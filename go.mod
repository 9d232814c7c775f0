module slowreveal

go 1.26.0

require (
	github.com/alecthomas/kong v1.17.0
	github.com/go-text/typesetting v0.3.5
	github.com/qmuntal/gltf v0.28.0
	github.com/stretchr/testify v1.12.1
	golang.org/x/image v0.48.0
	gonum.org/v1/gonum v0.17.0
)

require (
	go.yaml.in/yaml/v3 v3.0.6 // indirect
	golang.org/x/sys v0.50.0 // indirect
)
