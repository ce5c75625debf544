#!/bin/sh
# Install the Debian packages that are missing: for running the product (`run`), for its tests, for its benchmarks.
# Without the right to install, say exactly what to run.
set -eu

missing=""
need() { # need COMMAND-OR-FILE PACKAGE...
    probe=$1
    shift
    case $probe in
        /*) for file in $probe; do [ -e "$file" ] && return 0; done ;;
        *) command -v "$probe" >/dev/null 2>&1 && return 0 ;;
    esac
    missing="$missing $*"
}

need '/usr/lib/postgresql/*/bin/initdb' postgresql
# what sets pages as PDF
need '/usr/lib/*/libpango-1.0.so.0' libpango-1.0-0
need '/usr/lib/*/libpangoft2-1.0.so.0' libpangoft2-1.0-0
need '/usr/lib/*/libharfbuzz-subset.so.0' libharfbuzz-subset0
need '/usr/share/fonts/truetype/dejavu/*' fonts-dejavu-core
python3 -c 'import ensurepip, venv' >/dev/null 2>&1 || missing="$missing python3-venv"
case ${1:-run} in
    test)
        need /usr/bin/chromium chromium
        need '/usr/lib/*/libatomic.so.1' libatomic1 # Playwright's driver wants it
        # what Linux plans are tried with, in network namespaces
        need '/usr/sbin/ip' iproute2
        need '/usr/sbin/sysctl' procps
        need '/usr/sbin/nft' nftables
        need '/usr/bin/ping' iputils-ping
        need '/usr/sbin/traceroute' traceroute
        need '/usr/sbin/sshd' openssh-server # a Linux machine that is reached by SSH
        need '/usr/bin/sudo' sudo # by which whoever isn't root enters something there
        need '/usr/bin/tshark' tshark # reads the captures of rehearsals, as an independent witness
        need '/usr/share/yuma/modules/*' libyuma-base # the published data models of interfaces, addresses and routes
        ;;
    bench) need gcc gcc python3-dev ;;
esac

if [ -n "$missing" ]; then
    install="apt-get install -y --no-install-recommends$missing"
    if [ "$(id -u)" -eq 0 ]; then
        echo "Installing Debian packages:$missing …"
        export DEBIAN_FRONTEND=noninteractive
        apt-get update -qq
        $install -qq >/dev/null
    elif command -v sudo >/dev/null 2>&1 && sudo -n true 2>/dev/null; then
        echo "Installing Debian packages with sudo:$missing …"
        sudo apt-get update -qq
        sudo env DEBIAN_FRONTEND=noninteractive $install -qq >/dev/null
    else
        echo "These Debian packages are missing, and this user may not install them:$missing" >&2
        echo "Run this once as root, then try again:" >&2
        echo "    apt-get update && $install" >&2
        exit 1
    fi
fi

wants() { # wants WHAT COMMAND-THAT-SUCCEEDS-IF-NEW-ENOUGH
    eval "$2" >/dev/null 2>&1 && return 0
    echo "$1 is needed and was not found on the PATH." >&2
    exit 1
}
wants "Python 3.11 or newer" "python3 -c 'import sys; assert sys.version_info >= (3, 11)'"
wants "Node.js 20 or newer, with npm" "npm --version && node -e 'process.exit(parseInt(process.versions.node) >= 20 ? 0 : 1)'"
