#!/bin/sh
# Installs dist/*.deb in a fresh Debian root, runs its demo there on a screen of Xvfb (which stays outside), removes it, and
# looks for what it left. Needs root, debootstrap and Xvfb.
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
inside inner-rim doctor || true
inside inner-rim --demo --smoke
inside env LANGUAGE=de inner-rim --demo --smoke
inside inner-rim train 01 --json > /dev/null && echo "training runs"
inside apt-get -qq remove -y --purge inner-rim > /dev/null
left=$(inside find / -xdev -path '*inner-rim*' -not -path '/root/*' -not -path '/tmp/*' -not -path '/proc/*' | head)
test -z "$left" && echo "nothing is left" || { echo "left: $left"; exit 1; }
