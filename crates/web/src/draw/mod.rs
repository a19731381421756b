//! Drawings as SVG, made on the server. Each has a text twin; colours come from the style sheet.

pub(crate) mod chain;
pub(crate) mod hook_up;
pub(crate) mod insulation;
pub(crate) mod live;
pub(crate) mod overlay;
pub(crate) mod profile;
mod scale;
pub(crate) mod switching;
pub(crate) mod trend;
pub(crate) mod tried;
pub(crate) mod wall;

/// Text safe inside SVG and HTML.
pub(crate) fn escape(text: &str) -> String {
    let Ok(safe) = askama::filters::escape(text, askama::filters::Html);
    safe.to_string()
}

/// At most so many characters, the last an ellipsis when it was cut.
pub(crate) fn shortened(text: &str, most: usize) -> String {
    if text.chars().count() <= most {
        return text.to_owned();
    }
    text.chars().take(most.saturating_sub(1)).chain(std::iter::once('…')).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn nothing_breaks_out() {
        assert_eq!(escape("<a href=\"x\">&'"), "&#60;a href=&#34;x&#34;&#62;&#38;&#39;");
        assert_eq!(shortened("Press room", 6), "Press…");
    }
}
