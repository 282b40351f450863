#!/bin/sh
# Runs the bundle in bare systems without Python: print files, and the window. Needs root and debootstrap.
# One has its libraries where Debian has them; the other where Fedora and its relatives have them (/usr/lib64,
# no folders named after the processor, and none of Debian's own tools).
set -eu
command -v debootstrap >/dev/null || apt-get install -y -qq debootstrap >/dev/null
bare=${1:-build/bare}
other=$bare-lib64
tried=

with_lib64() {
    rm -rf "$other"
    cp -a "$bare" "$other"
    rm -f "$other/usr/lib64/ld-linux-x86-64.so.2"
    mv "$other"/usr/lib/x86_64-linux-gnu/* "$other/usr/lib64/"
    rmdir "$other/usr/lib/x86_64-linux-gnu"
    rm -rf "$other"/etc/apt "$other"/usr/bin/apt* "$other"/usr/bin/dpkg* "$other"/var/lib/dpkg "$other"/etc/ld.so.conf.d
    printf 'ID=lib64\nNAME="A system with lib64"\n' >"$other/usr/lib/os-release"
    echo /usr/lib64 >"$other/etc/ld.so.conf"
    ldconfig -r "$other"
}

try_in() {
    rm -rf "$1/opt/wamplex" "$1/tmp/out"
    cp -r build/bundle/wamplex "$1/opt/wamplex"
    cp src/wamplex/demo/stage-web.jpg src/wamplex/demo/dress-rehearsal.dng "$1/tmp/"
    mount -t proc proc "$1/proc"
    tried="$1/proc"
    chroot "$1" sh -euc '
        ! command -v python3
        cd /tmp
        wamplex=/opt/wamplex/wamplex
        $wamplex --version
        $wamplex enlarge stage-web.jpg --factor 4 --out out/
        $wamplex enlarge dress-rehearsal.dng --upscaler tessera --factor 2 --out out/rehearsal.pdf
        $wamplex recipe out/stage-web-4x.tif --json
        code=0
        QT_QPA_PLATFORM=offscreen timeout 20 $wamplex --demo || code=$?
        [ $code = 124 ]  # it ran until it was ended
    '
    umount "$1/proc"
    tried=
    echo "The bundle runs in $1."
}

trap '[ -z "$tried" ] || umount "$tried"' EXIT
[ -d "$bare/usr" ] || debootstrap --variant=minbase stable "$bare" >/dev/null
try_in "$bare"
[ "$(uname -m)" != x86_64 ] || { with_lib64 && try_in "$other"; }
