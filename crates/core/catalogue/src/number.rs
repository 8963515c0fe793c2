//! A number in a file: JSON has no infinity, so it is written as `"inf"`.

use serde::de::{Deserialize, Deserializer, Error, Unexpected, Visitor};
use serde::{Serialize, Serializer};

/// A parameter value as it stands in a file.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Number(pub f64);

/// Writes a finite number as a number and infinity as `"inf"`.
///
/// # Errors
/// Those of the serializer.
#[allow(clippy::trivially_copy_pass_by_ref, reason = "the signature serde asks for")]
pub fn serialize<S: Serializer>(value: &f64, serializer: S) -> Result<S::Ok, S::Error> {
    if value.is_infinite() { serializer.serialize_str("inf") } else { serializer.serialize_f64(*value) }
}

impl std::fmt::Display for Number {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        // A huge number is not written out digit by digit.
        if self.0.abs() < 1e9 || self.0.is_infinite() {
            write!(f, "{}", self.0)
        } else {
            write!(f, "{:e}", self.0)
        }
    }
}

impl Serialize for Number {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        serialize(&self.0, serializer)
    }
}

impl<'de> Deserialize<'de> for Number {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        struct One;
        #[allow(clippy::cast_precision_loss, reason = "JSON numbers are real numbers here")]
        impl Visitor<'_> for One {
            type Value = Number;
            fn expecting(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
                f.write_str("a number or \"inf\"")
            }
            fn visit_f64<E>(self, v: f64) -> Result<Number, E> {
                Ok(Number(v))
            }
            fn visit_i64<E>(self, v: i64) -> Result<Number, E> {
                Ok(Number(v as f64))
            }
            fn visit_u64<E>(self, v: u64) -> Result<Number, E> {
                Ok(Number(v as f64))
            }
            fn visit_str<E: Error>(self, v: &str) -> Result<Number, E> {
                if v == "inf" {
                    self.visit_f64(f64::INFINITY)
                } else {
                    Err(E::invalid_value(Unexpected::Str(v), &self))
                }
            }
        }
        deserializer.deserialize_any(One)
    }
}

#[cfg(feature = "typescript")]
impl ts_rs::TS for Number {
    type WithoutGenerics = Self;
    type OptionInnerType = Self;
    fn name(_: &ts_rs::Config) -> String {
        "number | \"inf\"".to_owned()
    }
    fn inline(config: &ts_rs::Config) -> String {
        Self::name(config)
    }
}
