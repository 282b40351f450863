#!/bin/sh
# Sees that the system libraries Qt needs are there: installs them when root, else names them in one line.
wanted="libegl1 libgl1 libxkbcommon0 libxkbcommon-x11-0 libdbus-1-3 libfontconfig1 libglib2.0-0 libxcb-cursor0 libxcb-icccm4 libxcb-image0 libxcb-keysyms1 libxcb-render-util0 libxcb-shape0 libxcb-xinerama0 xvfb xauth strace"
command -v dpkg-query >/dev/null 2>&1 || exit 0
missing=""
for name in $wanted; do
    dpkg-query -W -f='${Status}' "$name" 2>/dev/null | grep -q "ok installed" || missing="$missing $name"
done
[ -z "$missing" ] && exit 0
if [ "$(id -u)" = 0 ]; then
    echo "Installing system packages:$missing"
    { apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq $missing; } >/dev/null && exit 0
fi
echo "Missing system packages. Please run: sudo apt-get install$missing" >&2
exit 0
