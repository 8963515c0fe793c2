//! Names that people give: what is kept of them, and what is not accepted.

use clear_bend_sound::Refusal;
use unicode_normalization::UnicodeNormalization;

/// Longest name of a document, in characters.
pub const LONGEST_NAME: usize = 120;
/// Longest name of a track, in characters; a longer one is cut.
pub const LONGEST_TRACK_NAME: usize = 255;

/// Characters that are not seen, or that turn the direction of what follows: a name with one of them looks like another name.
/// (Unicode Standard Annex 9, section 2; general category Cf; Default_Ignorable_Code_Point but for the variation selectors, which say how
/// the letter before them looks; and the blank pattern of Braille.)
const UNSEEN: [std::ops::RangeInclusive<char>; 17] = [
    '\u{ad}'..='\u{ad}',
    '\u{34f}'..='\u{34f}',
    '\u{61c}'..='\u{61c}',
    '\u{115f}'..='\u{1160}',
    '\u{17b4}'..='\u{17b5}',
    '\u{180b}'..='\u{180f}',
    '\u{2800}'..='\u{2800}',
    '\u{3164}'..='\u{3164}',
    '\u{ffa0}'..='\u{ffa0}',
    '\u{1bca0}'..='\u{1bca3}',
    '\u{1d173}'..='\u{1d17a}',
    '\u{200b}'..='\u{200f}',
    '\u{2028}'..='\u{202e}',
    '\u{2060}'..='\u{206f}',
    '\u{feff}'..='\u{feff}',
    '\u{fff0}'..='\u{fffb}',
    '\u{e0000}'..='\u{e00ff}',
];

fn is_unseen(c: char) -> bool {
    UNSEEN.iter().any(|range| range.contains(&c))
}

/// A name in one form (NFC), trimmed: 1 to 120 characters that can be seen, on one line.
pub(crate) fn checked_name(name: &str) -> Result<String, Refusal> {
    let name: String = name.trim().nfc().collect();
    let length = name.chars().count();
    if length == 0 || length > LONGEST_NAME {
        return Err(Refusal::new(
            "name",
            format!("{length} characters long"),
            format!("1 to {LONGEST_NAME} characters"),
        ));
    }
    if let Some(control) = name.chars().find(|c| c.is_control()) {
        let found = format!("text with the control character {}", control.escape_unicode());
        return Err(Refusal::new("name", found, "text on one line"));
    }
    if let Some(unseen) = name.chars().find(|c| is_unseen(*c)) {
        let found = format!("text with the character {}, which is not seen", unseen.escape_unicode());
        return Err(Refusal::new("name", found, "characters that are seen"));
    }
    Ok(name)
}

/// A file name as it is shown: in one form, on one line, without what is not seen, not empty, not too long. It is never used as a
/// path.
pub(crate) fn shown_name(name: &str) -> String {
    let seen = name.nfc().filter(|c| !is_unseen(*c)).map(|c| if c.is_control() { ' ' } else { c });
    let one_line: String = seen.collect();
    match one_line.trim() {
        "" => "Untitled track".to_owned(),
        name => name.chars().take(LONGEST_TRACK_NAME).collect(),
    }
}
