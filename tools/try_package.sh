#!/bin/sh
# Installs dist/*.deb in a fresh Debian root, runs its demo there on a screen of Xvfb (which stays outside), compares what its
# commands print with what the checkout prints, removes it, and looks for what it left. Needs root, debootstrap and Xvfb.
#   tools/try_package.sh ROOT [MIRROR]
set -eu
cd "$(dirname "$0")/.."
root=$1
rm -rf "$root"
debootstrap --variant=minbase bookworm "$root" ${2:-} > /dev/null
cp /etc/resolv.conf "$root/etc/resolv.conf"
cp /etc/apt/apt.conf.d/*prox* "$root/etc/apt/apt.conf.d/" 2> /dev/null || true
cp dist/inner-rim_*.deb "$root/tmp/inner-rim.deb"
mount -t proc proc "$root/proc"
mkdir -p /tmp/.X11-unix "$root/tmp/.X11-unix"
mount --bind /tmp/.X11-unix "$root/tmp/.X11-unix"
Xvfb :79 -screen 0 1280x800x24 -nolisten tcp 2> /dev/null &
screen=$!
trap 'kill $screen; umount "$root/tmp/.X11-unix" "$root/proc"' EXIT
inside() { chroot "$root" env DEBIAN_FRONTEND=noninteractive LC_ALL=C.UTF-8 HOME=/root DISPLAY=:79 QT_QPA_PLATFORM=xcb "$@"; }
inside apt-get -qq update
inside apt-get -qq install -y /tmp/inner-rim.deb > /dev/null
inside dpkg -L inner-rim | grep -v '^/usr/lib/inner-rim'
inside inner-rim --version
inside inner-rim doctor | tee "$root/tmp/doctor.txt" || true
grep -q '^OK *numpy' "$root/tmp/doctor.txt" && grep -q '^OK *ortools' "$root/tmp/doctor.txt"
inside inner-rim --demo --smoke
inside env LANGUAGE=de inner-rim --demo --smoke

# -- the same figures as the checkout ----------------------------------------------------------
.venv/bin/python tools/package_inputs.py "$root/tmp"
.venv/bin/python tools/package_inputs.py /tmp
same() {
    home=$root/tmp/home-here
    inside env INNER_RIM_HOME=/tmp/home inner-rim "$@" > "$root/tmp/there.txt" || test $? -eq 1
    (cd "$root" && INNER_RIM_HOME=$home "$OLDPWD/.venv/bin/inner-rim" "$@" > "$root/tmp/here.txt") || test $? -eq 1
    cmp "$root/tmp/there.txt" "$root/tmp/here.txt" && echo "same: $*"
}
same plan /tmp/try-job.json --json
same trace /tmp/try-trace.csv --json
same hold /tmp/try-hold.csv --volume-ml 3000 --json
same schedule /tmp/try-day.json --json
inside env INNER_RIM_HOME=/tmp/home inner-rim import /tmp/try-job.json > /dev/null
INNER_RIM_HOME=$root/tmp/home-here .venv/bin/inner-rim import /tmp/try-job.json > /dev/null
same insights --json
same train 01 --json
rm -f /tmp/try-job.json /tmp/try-trace.csv /tmp/try-hold.csv /tmp/try-day.json
inside apt-get -qq remove -y --purge inner-rim > /dev/null
left=$(inside find / -xdev -path '*inner-rim*' -not -path '/root/*' -not -path '/tmp/*' -not -path '/proc/*' | head)
test -z "$left" && echo "nothing is left" || { echo "left: $left"; exit 1; }
