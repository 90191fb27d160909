#!/bin/sh
# Installs from Debian's packages what is missing: PostgreSQL for everything,
# Chromium, a PDF reader, the reference solvers glpsol, cbc and ngspice, and sox for
# the tests when asked with "test"; scipy when asked with "judges". Says what it does, and does
# nothing when nothing is missing. PostgreSQL is installed without a cluster
# of its own; Largo makes one in the project's folder.
set -eu

say() { printf '%s\n' "largo: $*"; }

as_root() {
	if [ "$(id -u)" = 0 ]; then "$@"
	elif command -v sudo >/dev/null 2>&1; then sudo "$@"
	else
		say "these are missing and need root to install: $*" >&2
		exit 1
	fi
}

if ! command -v go >/dev/null 2>&1; then
	say "Go is not on the PATH; install Go 1.26 or later first (https://go.dev/dl)" >&2
	exit 1
fi

missing=""
ls /usr/lib/postgresql/*/bin/initdb >/dev/null 2>&1 || missing="$missing postgresql"
if [ "${1:-}" = test ]; then
	[ -x /usr/bin/chromium ] || missing="$missing chromium fonts-dejavu-core"
	command -v pdftotext >/dev/null 2>&1 || missing="$missing poppler-utils"
	command -v glpsol >/dev/null 2>&1 || missing="$missing glpk-utils"
	command -v cbc >/dev/null 2>&1 || missing="$missing coinor-cbc"
	command -v ngspice >/dev/null 2>&1 || missing="$missing ngspice"
	command -v sox >/dev/null 2>&1 || missing="$missing sox"
fi
if [ "${1:-}" = judges ]; then
	/usr/bin/python3 -c 'import scipy' 2>/dev/null || missing="$missing python3-scipy"
fi
[ -n "$missing" ] || exit 0

say "installing from Debian's packages:$missing"
# so that the package makes no database cluster of its own
conf=/etc/postgresql-common/createcluster.d/largo-install.conf
as_root mkdir -p "$(dirname "$conf")"
printf 'create_main_cluster = false\n' | as_root tee "$conf" >/dev/null
as_root apt-get update -qq
status=0
# shellcheck disable=SC2086 # a list of package names
as_root env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends $missing >/dev/null || status=$?
as_root rm -f "$conf"
[ "$status" = 0 ] || { say "apt-get could not install:$missing" >&2; exit "$status"; }
say "installed"
