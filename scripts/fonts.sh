#!/usr/bin/env bash
# Makes the fonts that the binary carries from Debian's packages fonts-b612 (SIL Open Font Licence) and
# fonts-dejavu-core (Bitstream Vera licence; what the first has no letter for is drawn with it).
# Needs: both packages, python3 with fonttools and brotli. Run by hand when the set of glyphs changes.
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

# Every European alphabet: Latin with all its accents, Greek, Cyrillic.
from=/usr/share/fonts/truetype/dejavu
letters="U+00A0-024F,U+0259,U+02B0-02FF,U+0300-036F,U+0370-03FF,U+0400-052F,U+1E00-1EFF,U+2010-2027,U+20A0-20BF,U+2100-214F,U+25A1,U+FFFD"
second() {
  python3 -m fontTools.subset "$from/$1.ttf" --unicodes="$letters" --no-hinting --layout-features='' \
    --output-file="crates/paper/fonts/$2.ttf"
  python3 -m fontTools.subset "$from/$1.ttf" --unicodes="$letters" --no-hinting --layout-features='' --flavor=woff2 \
    --output-file="crates/web/static/fonts/$2.woff2"
}
second DejaVuSans DejaVuSans-Regular
second DejaVuSans-Bold DejaVuSans-Bold
cp /usr/share/doc/fonts-dejavu-core/copyright crates/paper/fonts/LICENCE-DejaVu.txt
cp /usr/share/doc/fonts-dejavu-core/copyright crates/web/static/fonts/LICENCE-DejaVu.txt
