#!/usr/bin/env bash
# Says in one line what this machine lacks.
need() { echo "idlebench: $1" >&2; exit 1; }
command -v python3 >/dev/null || need "Python is missing. Install Python 3.11 or newer."
python3 -c 'import sys; sys.exit(sys.version_info < (3, 11))' || need "this Python is $(python3 -V 2>&1 | cut -d' ' -f2). Python 3.11 or newer is needed."
python3 -c 'import venv, ensurepip' 2>/dev/null || need "Python's venv is missing. On Debian: apt-get install python3-venv"
command -v node >/dev/null || need "Node is missing. Install Node 20 or newer; it builds the styles once, at set-up."
command -v npm >/dev/null || need "npm is missing. It comes with Node 20 or newer."
node -e 'process.exit(parseInt(process.versions.node) < 20 ? 1 : 0)' || need "this Node is $(node -v). Node 20 or newer is needed."
