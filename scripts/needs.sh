#!/usr/bin/env bash
# Installs what is missing on a machine that has Go, Node and apt.
set -euo pipefail
missing=()
ls /usr/lib/postgresql/*/bin/pg_ctl >/dev/null 2>&1 || missing+=(postgresql)
command -v ffmpeg >/dev/null || missing+=(ffmpeg)
command -v chromium >/dev/null || missing+=(chromium)
# with which it draws the stage in the tests: Mesa's software renderer
ls /usr/lib/*/dri/swrast_dri.so >/dev/null 2>&1 || missing+=(libgl1-mesa-dri)
ls /usr/lib/*/libEGL_mesa.so.0 >/dev/null 2>&1 || missing+=(libegl1 libegl-mesa0)
# what reads documents again in the tests
command -v pdftotext >/dev/null || missing+=(poppler-utils)
command -v qpdf >/dev/null || missing+=(qpdf)
command -v xmllint >/dev/null || missing+=(libxml2-utils)
command -v g++ >/dev/null || missing+=(g++)
# OpenCascade, for stepread (native/stepread), and its JSON
[ -e /usr/include/opencascade/STEPCAFControl_Reader.hxx ] || missing+=(libocct-data-exchange-dev libocct-ocaf-dev libocct-modeling-algorithms-dev libocct-modeling-data-dev libocct-foundation-dev)
[ -e /usr/include/nlohmann/json.hpp ] || missing+=(nlohmann-json3-dev)
for program in go node npm; do
  command -v "$program" >/dev/null || { echo "$program is missing: install it first (see README.md)" >&2; exit 1; }
done
[ ${#missing[@]} -eq 0 ] && exit 0
echo "Installing ${missing[*]} from Debian's packages"
root=()
if [ "$(id -u)" -ne 0 ]; then
  command -v sudo >/dev/null || { echo "Please run as root: apt-get install ${missing[*]}" >&2; exit 1; }
  root=(sudo)
fi
"${root[@]}" apt-get update -qq
"${root[@]}" env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "${missing[@]}" >/dev/null
