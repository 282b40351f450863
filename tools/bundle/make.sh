#!/bin/sh
# Writes build/bundle/wamplex/ (a folder with all it needs) and packs it: sh tools/bundle/make.sh PYTHON-FOLDER
set -eu
bin=$1
"$bin"/pyinstaller --noconfirm --clean --log-level WARN --name wamplex \
    --distpath build/bundle --workpath build/work --specpath build \
    --collect-data wamplex --collect-submodules wamplex --recursive-copy-metadata wamplex --collect-submodules Xlib \
    --collect-all imagecodecs --collect-all rawpy --collect-all pillow_heif \
    --collect-data reportlab --collect-submodules skimage.metrics --collect-submodules skimage.restoration \
    --copy-metadata imageio --copy-metadata scikit-image \
    --exclude-module torch --exclude-module pytest --exclude-module mypy --exclude-module distributed \
    tools/bundle/main.py
# Libraries that Qt takes from the desktop; the program loads those that a system has not.
inside=build/bundle/wamplex/_internal
mkdir -p $inside/fallback
find $inside/PySide6 -name 'libqxcb.so' -o -name 'libqwayland*.so' -o -name 'libQt6Widgets.so.6' -o -name 'libQt6XcbQpa.so.6' |
    xargs ldd 2>/dev/null | awk '$3 ~ "^/(usr/)?lib/" {print $3}' | sort -u |
    grep -vE '/(libc|libm|libdl|libpthread|librt|libstdc\+\+|libgcc_s|ld-linux[^/]*)\.so' |
    xargs -I{} cp -Ln {} $inside/fallback/
tar -C build/bundle -czf build/wamplex-linux-"$(uname -m)".tar.gz wamplex
du -sh build/bundle/wamplex build/wamplex-linux-"$(uname -m)".tar.gz
