#!/bin/sh
# Runs the bundle in a bare Debian without Python: print files, and the window. Needs root and debootstrap.
set -eu
command -v debootstrap >/dev/null || apt-get install -y -qq debootstrap >/dev/null
bare=${1:-build/bare}
[ -d "$bare/usr" ] || debootstrap --variant=minbase stable "$bare" >/dev/null
rm -rf "$bare/opt/wamplex" "$bare/tmp/out"
cp -r build/bundle/wamplex "$bare/opt/wamplex"
cp src/wamplex/demo/stage-web.jpg src/wamplex/demo/dress-rehearsal.dng "$bare/tmp/"
mount -t proc proc "$bare/proc"
trap 'umount "$bare/proc"' EXIT
chroot "$bare" sh -euc '
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
    echo "The bundle runs."
'
