//! What a text may hold: the one rule, in forms, registers and events alike.
//!
//! What is typed is refused by field and character, so that what a form takes an exported file brings
//! back. A file from outside keeps its bytes; [`odd`] tells what it holds.

/// Why a text is not taken.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum BadText {
    /// Too long.
    #[error("{field}: that is longer than {longest} characters.")]
    TooLong {
        /// Which field.
        field: String,
        /// Most characters.
        longest: usize,
    },
    /// It holds what no text may.
    #[error("{field}: the character {} ({}) may not stand in a text: take it out.", code(*.character), what(*.character))]
    Character {
        /// Which field.
        field: String,
        /// Which character.
        character: char,
    },
}

fn code(character: char) -> String {
    format!("U+{:04X}", u32::from(character))
}

fn what(character: char) -> &'static str {
    if is_override(character) { "it turns the direction of the text" } else { "a control character" }
}

/// Characters that make a text read otherwise than it is written (Unicode, UAX #9: embeddings,
/// overrides and isolates).
const fn is_override(character: char) -> bool {
    matches!(character, '\u{202a}'..='\u{202e}' | '\u{2066}'..='\u{2069}')
}

/// The first character that may not stand in a text; a paragraph may hold line breaks and tabs.
fn bad(text: &str, paragraph: bool) -> Option<char> {
    let allowed = |c: char| paragraph && matches!(c, '\n' | '\r' | '\t');
    text.chars().find(|c| is_override(*c) || c.is_control() && !allowed(*c))
}

fn taken(field: &str, text: &str, longest: usize, paragraph: bool) -> Result<String, BadText> {
    let text = text.trim();
    if let Some(character) = bad(text, paragraph) {
        return Err(BadText::Character { field: field.to_owned(), character });
    }
    if text.chars().count() > longest {
        return Err(BadText::TooLong { field: field.to_owned(), longest });
    }
    Ok(text.to_owned())
}

/// Takes a line of at most `longest` characters, without white space around it.
///
/// # Errors
/// [`BadText`] with the field and what is wrong.
pub fn line(field: &str, text: &str, longest: usize) -> Result<String, BadText> {
    taken(field, text, longest, false)
}

/// Takes a paragraph of at most `longest` characters: line breaks and tabs may stand in it.
///
/// # Errors
/// [`BadText`] with the field and what is wrong.
pub fn paragraph(field: &str, text: &str, longest: usize) -> Result<String, BadText> {
    taken(field, text, longest, true)
}

/// The first character of a text from outside that no form would take, as it is named.
pub fn odd(text: &str) -> Option<String> {
    bad(text, true).map(|character| format!("{} ({})", code(character), what(character)))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_turns_a_text_is_refused_by_field_and_character() {
        let refused = |text: &str| line("name", text, 10).unwrap_err().to_string();
        assert!(refused("Kell\u{202e}sirdI").contains("name: the character U+202E (it turns"));
        assert!(refused("a\u{7}").contains("U+0007 (a control character)"));
        assert!(refused("a\nb").contains("U+000A"));
        assert!(refused("eleven long").contains("longer than 10"));
        assert_eq!(line("name", "  Maud Ferrow\t", 20), Ok("Maud Ferrow".to_owned()));
        assert_eq!(paragraph("extent", "one\r\ntwo", 20), Ok("one\r\ntwo".to_owned()));
        assert!(paragraph("extent", "\u{2066}x", 20).is_err());
        assert_eq!((odd("plain"), odd("a\u{1b}b")), (None, Some("U+001B (a control character)".to_owned())));
    }
}
