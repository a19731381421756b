//! A QR code (ISO/IEC 18004) as the places of its dark squares.

use qrcodegen::{QrCode, QrCodeEcc};

/// The dark squares of the code of a text, by column and row; none when the text is too long for one.
pub(crate) fn squares(text: &str) -> Vec<(u16, u16)> {
    let Ok(code) = QrCode::encode_text(text, QrCodeEcc::Medium) else { return Vec::new() };
    let size = code.size();
    let all = (0..size).flat_map(|y| (0..size).map(move |x| (x, y)));
    let dark = all.filter(|&(x, y)| code.get_module(x, y));
    dark.filter_map(|(x, y)| Some((u16::try_from(x).ok()?, u16::try_from(y).ok()?))).collect()
}

#[cfg(test)]
mod tests {
    use super::squares;

    /// ISO/IEC 18004, 6.3.3: three finder patterns of 7 by 7 in three corners.
    #[test]
    fn the_finder_patterns_stand_in_three_corners() {
        let code = squares("PROOF1|G-101-C1");
        let most = code.iter().map(|(x, _)| *x).max().unwrap();
        let dark = |x, y| code.contains(&(x, y));
        for (x, y) in [(0, 0), (most - 6, 0), (0, most - 6)] {
            assert!((0..7).all(|along| dark(x + along, y) && dark(x, y + along)));
            assert!(!dark(x + 1, y + 1) && dark(x + 3, y + 3));
        }
        assert!(squares(&"x".repeat(5000)).is_empty());
    }
}
