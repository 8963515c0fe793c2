//! Values by parameter id, as they stand in files: a choice by its word or by its place, and what comes in numbers as a list.

use std::fmt;

use serde::de::{Deserialize, Deserializer, Error, MapAccess, SeqAccess, Visitor};
use serde::{Serialize, Serializer};

use super::{Number, Param};
use clear_bend_sound::refusal::{Refusal, nearest};

/// A value in a file.
#[derive(Debug, Clone, PartialEq)]
pub enum Written {
    /// A number, or the place of a choice.
    Number(Number),
    /// The word of a choice.
    Word(String),
    /// The elements of a list, each with values of its own.
    List(Vec<Values>),
}

/// Values by id, in the order in which they stand.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Values(Vec<(String, Written)>);

/// A list in which parameters stand that there are many of: those with a number of their own in their id, as `freq_3_hz`,
/// whose name in the list is `freq_hz`.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct List {
    /// Its name.
    pub id: &'static str,
    /// The parameter without which an element is not there: the first of its choices says so.
    pub there: &'static str,
}

impl Values {
    /// Whether there are none.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.0.is_empty()
    }

    /// The ids and values.
    pub fn iter(&self) -> impl Iterator<Item = (&str, &Written)> {
        self.0.iter().map(|(id, value)| (id.as_str(), value))
    }

    /// Gives a parameter another number.
    pub fn put(&mut self, id: &str, value: f64) {
        self.0.retain(|(known, _)| known != id);
        self.0.push((id.to_owned(), Written::Number(Number(value))));
    }

    /// The values that differ from their defaults, as plain numbers in catalogue order.
    #[must_use]
    pub fn plain(params: &[Param], values: &[f64]) -> Self {
        Self(moved(params, values).map(|(p, v)| (p.id.to_owned(), Written::Number(Number(v)))).collect())
    }

    /// The values that differ from their defaults as people read them, in catalogue order: choices by their words, and those
    /// that belong into a list in one.
    #[must_use]
    pub fn worded(params: &[Param], list: Option<List>, values: &[f64]) -> Self {
        let word = |param: &Param, value: f64| match param.choices.get(clear_bend_sound::cast::floor(value)) {
            Some(word) => Written::Word((*word).to_owned()),
            None => Written::Number(Number(value)),
        };
        let numbered = |param: &Param| list.and_then(|_| name_in_list(param.id));
        let own = moved(params, values).filter(|(param, _)| numbered(param).is_none());
        let mut written: Vec<_> = own.map(|(param, v)| (param.id.to_owned(), word(param, v))).collect();
        let Some(list) = list else { return Self(written) };
        let mut elements: Vec<Values> = Vec::new();
        for (param, value) in params.iter().zip(values) {
            let Some((number, name)) = name_in_list(param.id) else { continue };
            elements.resize(elements.len().max(number), Self::default());
            // What is not there is said so, so that the others keep their numbers.
            if *value != param.default || name == list.there {
                elements[number - 1].0.push((name, word(param, *value)));
            }
        }
        let absent = Written::Word(first_choice(params, list).to_owned());
        while elements.last().is_some_and(|last| matches!(last.0.as_slice(), [(_, only)] if *only == absent))
        {
            elements.pop();
        }
        if !elements.is_empty() {
            written.push((list.id.to_owned(), Written::List(elements)));
        }
        Self(written)
    }

    /// Checks the values and puts all in catalogue order; what is missing takes its default.
    ///
    /// # Errors
    /// Refuses unknown parameters and words, values out of range, and what is no list.
    pub fn checked(&self, params: &[Param], list: Option<List>) -> Result<Vec<f64>, Refusal> {
        let mut values: Vec<f64> = params.iter().map(|p| p.default).collect();
        let known = || params.iter().map(|p| p.id).chain(list.map(|list| list.id));
        for (id, written) in self.iter() {
            match (written, list.filter(|list| list.id == id)) {
                (Written::List(elements), Some(list)) => {
                    for (i, element) in elements.iter().enumerate() {
                        let at = format!("{id}[{i}]");
                        element.put_in_place(i + 1, list, params, &mut values).map_err(|e| e.within(&at))?;
                    }
                }
                (_, Some(_)) => return Err(Refusal::new(id, "one value", "a list of objects")),
                (written, None) => {
                    let place = params.iter().position(|p| p.id == id);
                    let place = place.ok_or_else(|| unknown(id, known()))?;
                    values[place] = written.value_of(&params[place])?;
                }
            }
        }
        Ok(values)
    }

    /// Puts the values of an element of a list where they belong.
    fn put_in_place(
        &self,
        number: usize,
        list: List,
        params: &[Param],
        values: &mut [f64],
    ) -> Result<(), Refusal> {
        let names: Vec<_> = params.iter().map(|p| name_in_list(p.id).filter(|(n, _)| *n == number)).collect();
        if names.iter().all(Option::is_none) {
            let most = params.iter().filter_map(|p| name_in_list(p.id)).map(|(n, _)| n).max().unwrap_or(0);
            return Err(Refusal::new(
                list.there,
                format!("of element {number}"),
                format!("at most {most} of them"),
            ));
        }
        if self.iter().all(|(name, _)| name != list.there) {
            let choices = params
                .iter()
                .zip(&names)
                .find(|(_, name)| name.as_ref().is_some_and(|(_, n)| n == list.there));
            return Err(Refusal::new(
                list.there,
                "missing",
                choices.map_or(String::new(), |(p, _)| p.choices.join(", ")),
            ));
        }
        for (name, written) in self.iter() {
            let place = names.iter().position(|known| known.as_ref().is_some_and(|(_, known)| known == name));
            let known = names.iter().flatten().map(|(_, name)| name.as_str());
            let place = place.ok_or_else(|| unknown(name, known))?;
            let refused = |e| Refusal { field: name.to_owned(), ..e };
            values[place] = written.value_of(&params[place]).map_err(refused)?;
        }
        Ok(())
    }
}

fn moved<'a>(params: &'a [Param], values: &'a [f64]) -> impl Iterator<Item = (&'a Param, f64)> {
    params.iter().zip(values.iter().copied()).filter(|(param, value)| *value != param.default)
}

/// The word for an element that is not there.
fn first_choice(params: &[Param], list: List) -> &'static str {
    let there = params.iter().find(|p| name_in_list(p.id).is_some_and(|(_, name)| name == list.there));
    there.and_then(|param| param.choices.first()).copied().unwrap_or("")
}

/// The number in an id, and the id without it.
#[must_use]
pub fn name_in_list(id: &str) -> Option<(usize, String)> {
    let parts: Vec<_> = id.split('_').collect();
    let place = parts.iter().position(|part| part.parse::<usize>().is_ok_and(|n| n > 0))?;
    let number = parts[place].parse().ok()?;
    let rest: Vec<_> = parts.iter().enumerate().filter(|(i, _)| *i != place).map(|(_, part)| *part).collect();
    Some((number, rest.join("_")))
}

fn unknown<'a>(id: &str, known: impl IntoIterator<Item = &'a str>) -> Refusal {
    Refusal::new(
        "",
        format!("an object with the unknown name \u{201c}{id}\u{201d}"),
        nearest(id, known.into_iter()),
    )
}

impl Written {
    fn value_of(&self, param: &Param) -> Result<f64, Refusal> {
        match self {
            Self::Number(number) => param.check(number.0),
            Self::Word(word) => {
                let place = param.choices.iter().position(|choice| choice == word);
                place.map(clear_bend_sound::cast::real).ok_or_else(|| {
                    let accepted =
                        if param.choices.is_empty() { param.range_text() } else { param.choices.join(", ") };
                    Refusal::new(param.id, format!("\u{201c}{word}\u{201d}"), accepted)
                })
            }
            Self::List(_) => Err(Refusal::new(param.id, "a list", "one value")),
        }
    }
}

impl<I: Into<String>> FromIterator<(I, f64)> for Values {
    fn from_iter<T: IntoIterator<Item = (I, f64)>>(values: T) -> Self {
        Self(values.into_iter().map(|(id, value)| (id.into(), Written::Number(Number(value)))).collect())
    }
}

impl Serialize for Written {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        match self {
            Self::Number(number) => number.serialize(serializer),
            Self::Word(word) => serializer.serialize_str(word),
            Self::List(elements) => serializer.collect_seq(elements),
        }
    }
}

impl Serialize for Values {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        serializer.collect_map(self.iter())
    }
}

impl<'de> Deserialize<'de> for Written {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        struct Any;
        #[allow(clippy::cast_precision_loss, reason = "JSON numbers are real numbers here")]
        impl<'de> Visitor<'de> for Any {
            type Value = Written;
            fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
                f.write_str("a number, \"inf\", a word or a list")
            }
            fn visit_f64<E>(self, v: f64) -> Result<Written, E> {
                Ok(Written::Number(Number(v)))
            }
            fn visit_i64<E>(self, v: i64) -> Result<Written, E> {
                Ok(Written::Number(Number(v as f64)))
            }
            fn visit_u64<E>(self, v: u64) -> Result<Written, E> {
                Ok(Written::Number(Number(v as f64)))
            }
            fn visit_str<E: Error>(self, v: &str) -> Result<Written, E> {
                if v == "inf" { self.visit_f64(f64::INFINITY) } else { Ok(Written::Word(v.to_owned())) }
            }
            fn visit_seq<A: SeqAccess<'de>>(self, mut list: A) -> Result<Written, A::Error> {
                let mut elements = Vec::new();
                while let Some(element) = list.next_element()? {
                    elements.push(element);
                }
                Ok(Written::List(elements))
            }
        }
        deserializer.deserialize_any(Any)
    }
}

impl<'de> Deserialize<'de> for Values {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        struct Named;
        impl<'de> Visitor<'de> for Named {
            type Value = Values;
            fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
                f.write_str("an object of values")
            }
            fn visit_map<A: MapAccess<'de>>(self, mut map: A) -> Result<Values, A::Error> {
                let mut values = Vec::new();
                while let Some(entry) = map.next_entry()? {
                    values.push(entry);
                }
                Ok(Values(values))
            }
        }
        deserializer.deserialize_map(Named)
    }
}

/// On the page all values are plain numbers.
#[cfg(feature = "typescript")]
impl ts_rs::TS for Values {
    type WithoutGenerics = Self;
    type OptionInnerType = Self;
    fn name(_: &ts_rs::Config) -> String {
        "{ [id in string]?: number | \"inf\" }".to_owned()
    }
    fn inline(config: &ts_rs::Config) -> String {
        Self::name(config)
    }
}
