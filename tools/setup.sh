#!/usr/bin/env bash
# Make the environment in .venv: Python packages at pinned versions, and the system libraries Qt needs.
# What is missing is installed where that is allowed (root, or sudo without a password); else the one
# line to run is printed.
set -eu
cd "$(dirname "$0")/.."

say() { printf '%s\n' "inner-rim set-up: $*"; }

as_root() {
    if [ "$(id -u)" = 0 ]; then "$@"; elif command -v sudo >/dev/null && sudo -n true 2>/dev/null; then sudo "$@"; else return 1; fi
}

# install PACKAGES..: with apt where it may, else say how
install() {
    command -v apt-get >/dev/null || { say "please install: $*"; return 1; }
    if [ -z "${apt_updated:-}" ]; then as_root apt-get update -qq || true; apt_updated=1; fi
    as_root env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "$@" >/dev/null 2>&1 && return 0
    say "please run:  sudo apt-get install $*"
    return 1
}

python=${PYTHON:-python3}
command -v "$python" >/dev/null || { say "python3 (3.11 or newer) is needed"; exit 1; }
"$python" -c 'import sys; sys.exit(sys.version_info < (3, 11))' || { say "Python 3.11 or newer is needed; found $("$python" --version)"; exit 1; }

if [ ! -x .venv/bin/python ] || ! .venv/bin/python -m pip --version >/dev/null 2>&1; then
    say "making .venv"
    rm -rf .venv
    if ! "$python" -m venv .venv >/dev/null 2>&1; then
        version=$("$python" -c 'import sys; print("%d.%d" % sys.version_info[:2])')
        rm -rf .venv
        install "python$version-venv" || install python3-venv || exit 1
        "$python" -m venv .venv
    fi
fi

stamp=.venv/set-up-for
wanted=$(cat pyproject.toml constraints.txt | cksum)
if [ "$(cat "$stamp" 2>/dev/null || true)" != "$wanted" ]; then
    say "installing Python packages"
    .venv/bin/python -m pip install --quiet --disable-pip-version-check -c constraints.txt -e ".[dev]"
    printf '%s' "$wanted" >"$stamp"
fi
.venv/bin/python -m compileall -q src
for texts in src/inner_rim/locale/*/LC_MESSAGES/inner_rim.po; do
    [ "${texts%.po}.mo" -nt "$texts" ] || .venv/bin/python tools/texts.py
done

# library file -> Debian package
missing=""
have() { ldconfig -p 2>/dev/null | grep -q "$1" || ls /usr/lib/*/"$1"* >/dev/null 2>&1; }
need() { have "$1" || missing="$missing $2"; }
need libGL.so.1 libgl1
need libEGL.so.1 libegl1
need libfontconfig.so.1 libfontconfig1
need libxkbcommon.so.0 libxkbcommon0
need libdbus-1.so.3 libdbus-1-3
need libglib-2.0.so.0 libglib2.0-0
need libxcb-cursor.so.0 libxcb-cursor0
need libxcb-icccm.so.4 libxcb-icccm4
need libxcb-keysyms.so.1 libxcb-keysyms1
need libxcb-shape.so.0 libxcb-shape0
need libxkbcommon-x11.so.0 libxkbcommon-x11-0
if [ "${1:-}" = test ]; then
    command -v Xvfb >/dev/null || missing="$missing xvfb"
    command -v xauth >/dev/null || missing="$missing xauth"
    command -v xdotool >/dev/null || missing="$missing xdotool"
    # a window manager, and another window to switch to
    command -v openbox >/dev/null || missing="$missing openbox"
    command -v xmessage >/dev/null && command -v xprop >/dev/null || missing="$missing x11-utils"
    # what a screen reader reads through
    command -v dbus-run-session >/dev/null || missing="$missing dbus"
    ls /usr/libexec/at-spi-bus-launcher >/dev/null 2>&1 || missing="$missing at-spi2-core"
    /usr/bin/python3 -c 'import pyatspi' 2>/dev/null || missing="$missing python3-pyatspi gir1.2-atspi-2.0"
    ls /usr/lib/postgresql/*/bin/initdb >/dev/null 2>&1 || missing="$missing postgresql"
fi
if [ -n "$missing" ]; then
    say "system libraries missing:$missing"
    # shellcheck disable=SC2086
    install $missing || say "going on without; what needs them says so"
fi
