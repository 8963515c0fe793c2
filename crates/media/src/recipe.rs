//! How a sound was made, kept in its WAV file: as a comment in a list of information (Microsoft and IBM, "Multimedia Programming
//! Interface and Data Specifications 1.0", 1991), which other programs show or pass over.

/// What the comment begins with.
const BEGINS: &str = "clear-bend-source: ";
/// Longer recipes are not read, bytes.
const LONGEST: usize = 1_000_000;
/// The name and the length of a chunk, bytes.
const HEAD: usize = 8;

/// A WAV file with a recipe behind its samples. What is no WAV file, or would be too long for one, is left as it is.
#[must_use]
pub fn with_recipe(mut wav: Vec<u8>, recipe: &str) -> Vec<u8> {
    let comment = format!("{BEGINS}{recipe}\0");
    let padded = comment.len() + comment.len() % 2;
    // "INFO", then the chunk of the comment.
    let list = 4 + HEAD + padded;
    // The length that a file says is without its own head, and this chunk has one.
    let whole = u32::try_from(wav.len() + wav.len() % 2 + list).ok().filter(|_| wav.starts_with(b"RIFF"));
    let (Some(whole), Ok(list), Ok(length)) = (whole, u32::try_from(list), u32::try_from(comment.len()))
    else {
        return wav;
    };
    if wav.len() % 2 == 1 {
        wav.push(0);
    }
    wav.extend_from_slice(b"LIST");
    wav.extend_from_slice(&list.to_le_bytes());
    wav.extend_from_slice(b"INFOICMT");
    wav.extend_from_slice(&length.to_le_bytes());
    wav.extend_from_slice(comment.as_bytes());
    wav.resize(wav.len() + comment.len() % 2, 0);
    // All behind the first eight bytes.
    if let Some(said) = wav.get_mut(4..HEAD) {
        said.copy_from_slice(&whole.to_le_bytes());
    }
    wav
}

/// The recipe in a WAV file; none where there is none.
#[must_use]
pub fn recipe_of(wav: &[u8]) -> Option<&str> {
    let chunks = wav.strip_prefix(b"RIFF")?.get(8..)?;
    let list = chunk(chunks, |name, content| name == b"LIST" && content.starts_with(b"INFO"))?;
    let comment =
        chunk(list.get(4..)?, |name, content| name == b"ICMT" && content.starts_with(BEGINS.as_bytes()))?;
    let text = std::str::from_utf8(comment.get(BEGINS.len()..)?).ok()?;
    Some(text.trim_end_matches('\0')).filter(|text| text.len() <= LONGEST)
}

/// The content of the first chunk that is wanted.
fn chunk(mut chunks: &[u8], wanted: impl Fn(&[u8], &[u8]) -> bool) -> Option<&[u8]> {
    loop {
        let (name, rest) = chunks.split_at_checked(4)?;
        let (length, rest) = rest.split_first_chunk::<4>()?;
        let length = usize::try_from(u32::from_le_bytes(*length)).ok()?;
        // The last one may have been cut off.
        let content = rest.get(..length).or((rest.len() < length).then_some(rest))?;
        if wanted(name, content) {
            return Some(content);
        }
        chunks = rest.get(length + length % 2..)?;
    }
}
