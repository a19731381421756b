//! Drawings as SVG, made on the server. Each has a text twin; colours come from the style sheet.

pub(crate) mod chain;
pub(crate) mod hook_up;
pub(crate) mod live;
pub(crate) mod profile;
pub(crate) mod trend;

/// Text safe inside SVG and HTML.
pub(crate) fn escape(text: &str) -> String {
    let mut safe = String::with_capacity(text.len());
    for character in text.chars() {
        match character {
            '&' => safe.push_str("&amp;"),
            '<' => safe.push_str("&lt;"),
            '>' => safe.push_str("&gt;"),
            '"' => safe.push_str("&quot;"),
            '\'' => safe.push_str("&#39;"),
            other => safe.push(other),
        }
    }
    safe
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
        assert_eq!(escape("<a href=\"x\">&'"), "&lt;a href=&quot;x&quot;&gt;&amp;&#39;");
        assert_eq!(shortened("Press room", 6), "Press…");
    }
}
