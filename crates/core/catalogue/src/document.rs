//! Reading of any document of ours: JSON into checked values, and what does not fit said with its place.

use std::collections::BTreeSet;

use serde::de::{DeserializeOwned, Error as _, MapAccess, SeqAccess, Visitor};
use serde::{Deserialize, Deserializer};

use clear_bend_sound::refusal::Refusal;

/// Refuses a document of another format.
pub fn check_format(found: &str, format: &str) -> Result<(), Refusal> {
    if found != format {
        return Err(Refusal::new(
            "format",
            format!("\u{201c}{found}\u{201d}"),
            format!("\u{201c}{format}\u{201d}"),
        ));
    }
    Ok(())
}

/// Refuses a document of another version.
pub fn check_version(found: u32, version: u32) -> Result<(), Refusal> {
    if found == version { Ok(()) } else { Err(Refusal::new("version", found, version.to_string())) }
}

/// Reads a document, and says where and why when it does not fit.
///
/// # Errors
/// Refuses what is not JSON and what does not have the shape of `T`, with the path to the field.
pub fn parse_json<T: DeserializeOwned>(text: &str) -> Result<T, Refusal> {
    check_names(text)?;
    let mut deserializer = serde_json::Deserializer::from_str(text);
    let parsed = serde_path_to_error::deserialize(&mut deserializer).map_err(refusal_at)?;
    deserializer.end().map_err(|error| refusal_from_serde("document".to_owned(), &error))?;
    Ok(parsed)
}

/// Accepts a JSON text whose objects name everything once: of two values, it would be anybody's guess which one counts. What is no JSON is for
/// its reader to refuse.
///
/// # Errors
/// Refuses the first name that stands twice in one object.
pub fn check_names(text: &str) -> Result<(), Refusal> {
    let refused = |twice: String| {
        let found = format!("an object that names \u{201c}{twice}\u{201d} twice");
        Err(Refusal::new("document", found, "each name once"))
    };
    named_twice(text).map_or(Ok(()), refused)
}

/// Reads a document out of a JSON value, as [`parse_json`] reads it out of text.
///
/// # Errors
/// Refuses what does not have the shape of `T`, with the path to the field.
pub fn parse_value<T: DeserializeOwned>(value: serde_json::Value) -> Result<T, Refusal> {
    serde_path_to_error::deserialize(value).map_err(refusal_at)
}

/// Where and why a document does not fit.
fn refusal_at(error: serde_path_to_error::Error<serde_json::Error>) -> Refusal {
    let path = error.path().to_string();
    let field = if path == "." || path == "?" { "document".to_owned() } else { path };
    refusal_from_serde(field, &error.into_inner())
}

fn refusal_from_serde(field: String, error: &serde_json::Error) -> Refusal {
    let message = error.to_string();
    if error.is_syntax() || error.is_eof() {
        return Refusal::new(field, format!("not valid JSON ({message})"), "valid JSON");
    }
    // serde says "invalid type: string \"a\", expected f64 at line 1 column 9".
    let message = message.split(" at line ").next().unwrap_or(&message);
    match message.split_once(", expected ") {
        Some((found, accepted)) => Refusal::new(field, found, in_words(accepted)),
        None => Refusal::new(field, found_in_words(message), "a document as described in docs/files.md"),
    }
}

/// What a reader of JSON said, as a refusal in our words.
#[must_use]
pub fn refusal_of(field: &str, error: &serde_json::Error) -> Refusal {
    refusal_from_serde(field.to_owned(), error)
}

/// What serde found, in words that say nothing of Rust.
fn found_in_words(found: &str) -> &str {
    if found.starts_with("data did not match any variant") { "nothing of what is accepted" } else { found }
}

/// What serde expects, in words that say nothing of Rust.
fn in_words(expected: &str) -> String {
    match expected {
        "f32" | "f64" => "a number".to_owned(),
        "i8" | "i16" | "i32" | "i64" | "isize" => "a whole number".to_owned(),
        "u8" | "u16" | "u32" | "u64" | "usize" => "a whole number from 0".to_owned(),
        "variant identifier" | "string or map" => "a word".to_owned(),
        "a boolean" => "true or false".to_owned(),
        "a sequence" => "a list".to_owned(),
        "a map" => "an object".to_owned(),
        other if other.contains("struct ") || other.contains("enum ") => "an object".to_owned(),
        other => other.to_owned(),
    }
}

/// A name that stands twice in the same object of a JSON text.
fn named_twice(text: &str) -> Option<String> {
    serde_json::from_str::<NamedOnce>(text)
        .err()?
        .to_string()
        .strip_prefix(TWICE)?
        .split('\u{0}')
        .next()
        .map(str::to_owned)
}

const TWICE: &str = "named twice: ";

/// Any JSON whose objects name everything once.
struct NamedOnce;

impl<'de> Deserialize<'de> for NamedOnce {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        deserializer.deserialize_any(Self)
    }
}

impl<'de> Visitor<'de> for NamedOnce {
    type Value = Self;

    fn expecting(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str("JSON")
    }

    fn visit_map<A: MapAccess<'de>>(self, mut map: A) -> Result<Self, A::Error> {
        let mut seen = BTreeSet::new();
        while let Some(name) = map.next_key::<String>()? {
            if !seen.insert(name.clone()) {
                return Err(A::Error::custom(format!("{TWICE}{name}\u{0}")));
            }
            map.next_value::<Self>()?;
        }
        Ok(self)
    }

    fn visit_seq<A: SeqAccess<'de>>(self, mut list: A) -> Result<Self, A::Error> {
        while list.next_element::<Self>()?.is_some() {}
        Ok(self)
    }

    fn visit_bool<E>(self, _: bool) -> Result<Self, E> {
        Ok(self)
    }

    fn visit_i64<E>(self, _: i64) -> Result<Self, E> {
        Ok(self)
    }

    fn visit_u64<E>(self, _: u64) -> Result<Self, E> {
        Ok(self)
    }

    fn visit_f64<E>(self, _: f64) -> Result<Self, E> {
        Ok(self)
    }

    fn visit_str<E>(self, _: &str) -> Result<Self, E> {
        Ok(self)
    }

    fn visit_unit<E>(self) -> Result<Self, E> {
        Ok(self)
    }
}
