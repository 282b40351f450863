#!/bin/sh
# Opens the demo in a window; where there is no display, does the same main job into demo-output/.
wamplex="$1"
factor="${2:-4}"
if [ -n "$DISPLAY$WAYLAND_DISPLAY" ]; then
    exec "$wamplex" --demo
fi
echo "There is no display here, so no window can open. Enlarging the demo pictures into demo-output/ instead."
exec "$wamplex" enlarge src/wamplex/demo/*.jpg src/wamplex/demo/*.png src/wamplex/demo/*.dng --upscaler vellum --factor "$factor" --ppi 300 --out demo-output
