#!/usr/bin/env bash
# Makes the fonts that the binary carries from Debian's package fonts-b612 (SIL Open Font Licence).
# Needs: fonts-b612, python3 with fonttools and brotli. Run by hand when the set of glyphs changes.
set -euo pipefail
cd "$(dirname "$0")/.."
from=/usr/share/fonts/opentype/b612
glyphs="U+0020-017F,U+0394,U+03A9,U+03B8,U+03BC,U+2000-206F,U+2070-209F,U+20AC,U+2190-21FF,U+2200-22FF,U+2713,U+25A0-25FF"
for weight in Regular Bold; do
  cp "$from/B612-$weight.otf" crates/paper/fonts/
  python3 -m fontTools.subset "$from/B612-$weight.otf" --unicodes="$glyphs" --flavor=woff2 \
    --layout-features='*' --output-file="crates/web/static/fonts/B612-$weight.woff2"
done
cp /usr/share/doc/fonts-b612/copyright crates/paper/fonts/LICENCE-B612.txt
cp /usr/share/doc/fonts-b612/copyright crates/web/static/fonts/LICENCE-B612.txt
