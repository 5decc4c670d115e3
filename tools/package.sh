#!/bin/sh
# Builds dist/*.whl and dist/inner-rim_VERSION_ARCH.deb: the program with its Python packages under /usr/lib/inner-rim,
# run by the system's Python; system libraries are dependencies. What is never imported is left out.
set -eu
cd "$(dirname "$0")/.."
python=${PYTHON:-.venv/bin/python}
version=$($python -c 'import re; print(re.search(r"__version__ = .(.+).\n", open("src/inner_rim/__init__.py").read()).group(1))')
arch=$(dpkg --print-architecture)
root=build/deb
prefix=$root/usr/lib/inner-rim
rm -rf build dist
mkdir -p dist "$prefix"

$python tools/texts.py
$python -m pip wheel -q --no-deps --wheel-dir dist .
$python -m pip install -q --disable-pip-version-check --no-compile --target "$prefix" -c constraints.txt dist/inner_rim-*.whl
before=$(du -sm "$prefix" | cut -f1)

# -- what is never imported --------------------------------------------------------------------
qt=$prefix/PyQt6
for module in "$qt"/Qt*.abi3.so; do
    case $(basename "$module" .abi3.so) in
    QtCore | QtGui | QtWidgets | QtPdf | QtPrintSupport | QtNetwork | QtDBus) ;;
    *) rm "$module" ;;
    esac
done
for library in "$qt"/Qt6/lib/*; do
    case $(basename "$library") in
    libQt6Core.so.6 | libQt6Gui.so.6 | libQt6Widgets.so.6 | libQt6Pdf.so.6 | libQt6PrintSupport.so.6) ;;
    libQt6Network.so.6 | libQt6DBus.so.6 | libQt6XcbQpa.so.6 | libQt6OpenGL.so.6 | libicu*) ;;
    *) rm -rf "$library" ;;
    esac
done
for plugins in "$qt"/Qt6/plugins/*; do
    case $(basename "$plugins") in
    platforms | platformthemes | printsupport | xcbglintegrations | platforminputcontexts) ;;
    *) rm -rf "$plugins" ;;
    esac
done
rm "$qt/Qt6/plugins/platformthemes/libqgtk3.so"
find "$qt/Qt6/plugins/platforms" -type f ! -name 'libqxcb.so' ! -name 'libqoffscreen.so' -delete
rm -rf "$qt"/Qt6/translations "$qt"/Qt6/qml "$qt"/Qt6/qsci "$qt"/bindings "$qt"/uic "$qt"/lupdate "$qt"/*.pyi
find "$prefix" -type d \( -name tests -o -name test -o -name testing -o -name include \) -prune -exec rm -rf {} +
find "$prefix" -type d -name __pycache__ -prune -exec rm -rf {} +
find "$prefix" -type f \( -name '*.pyi' -o -name '*.pxd' -o -name '*.pyx' -o -name '*.c' -o -name '*.h' -o -name '*.a' \) -delete
rm -rf "$prefix/reportlab/fonts" "$prefix/reportlab/graphics/testshapes.py" "$prefix/reportlab/graphics/testdrawings.py"
rm -rf "$prefix/bin" "$prefix"/pip* "$prefix"/setuptools* "$prefix/ortools/linear_solver" "$prefix/ortools/routing" \
    "$prefix/ortools/math_opt" "$prefix/ortools/init" "$prefix/ortools/pdlp" "$prefix/ortools/packing"
after=$(du -sm "$prefix" | cut -f1)

# -- where the desktop looks -------------------------------------------------------------------
share=$root/usr/share
install -Dm644 packaging/inner-rim.desktop "$share/applications/inner-rim.desktop"
install -Dm644 packaging/org.inner_rim.InnerRim.metainfo.xml "$share/metainfo/org.inner_rim.InnerRim.metainfo.xml"
install -Dm644 packaging/inner-rim.xml "$share/mime/packages/inner-rim.xml"
install -Dm644 packaging/inner-rim.svg "$share/icons/hicolor/scalable/apps/inner-rim.svg"
for size in 16 32 48 64 128 256; do
    install -Dm644 "packaging/icons/$size.png" "$share/icons/hicolor/${size}x$size/apps/inner-rim.png"
done
install -Dm644 packaging/inner-rim.bash "$share/bash-completion/completions/inner-rim"
install -d "$share/man/man1" "$share/doc/inner-rim" "$share/lintian/overrides"
gzip -9n < packaging/inner-rim.1 > "$share/man/man1/inner-rim.1.gz"
printf 'inner-rim (%s) stable; urgency=medium\n\n  * See CHANGELOG.md in the source.\n\n -- Inner Rim <nobody@localhost>  %s\n' \
    "$version" "$(date -R)" | gzip -9n > "$share/doc/inner-rim/changelog.gz"
install -m644 packaging/copyright "$share/doc/inner-rim/copyright"
install -m644 packaging/lintian-overrides "$share/lintian/overrides/inner-rim"
install -Dm755 packaging/launcher.sh "$root/usr/bin/inner-rim"

# -- the package -------------------------------------------------------------------------------
find "$root" -type d -exec chmod 755 {} +
find "$prefix" -type f -exec chmod 644 {} +
size=$(du -sk "$root/usr" | cut -f1)
mkdir -p "$root/DEBIAN"
sed -e "s/@VERSION@/$version/; s/@ARCH@/$arch/; s/@SIZE@/$size/" packaging/control > "$root/DEBIAN/control"
install -m755 packaging/postinst packaging/prerm "$root/DEBIAN/"
(cd "$root" && find usr -type f -exec md5sum {} +) > "$root/DEBIAN/md5sums"
fakeroot dpkg-deb --build -Zxz "$root" "dist/inner-rim_${version}_$arch.deb"
echo "prefix $before MB, $after MB without what is never imported; $(du -m dist/*.deb | cut -f1) MB packed"
ls -1 dist
