//! How a value is written, rounded and typed.

use super::digits::decimal;
use super::{Param, Unit, aside};
use clear_bend_sound::Refusal;

impl Unit {
    /// The value with its unit as it stands on the screen, e.g. "−20.0 dBFS", "4.0 : 1", "1.25 kHz".
    #[must_use]
    pub fn text(self, value: f64) -> String {
        if value.is_nan() {
            return "none".to_owned();
        }
        if value == f64::NEG_INFINITY {
            return "silence".to_owned();
        }
        match self {
            Self::Db => format!("{} dB", decimal(value, 1)),
            Self::Dbfs => format!("{} dBFS", decimal(value, 1)),
            Self::Lufs => format!("{} LUFS", decimal(value, 1)),
            Self::Ratio if value.is_infinite() => "\u{221e} : 1".to_owned(),
            Self::Ratio => format!("{} : 1", decimal(value, usize::from(value < 99.95))),
            Self::Ms | Self::DelayMs if value >= 999.5 => format!("{} s", decimal(value / 1000.0, 2)),
            Self::Ms | Self::DelayMs => format!("{} ms", decimal(value, usize::from(value < 9.95))),
            Self::FineMs if value < 9.995 => format!("{} ms", decimal(value, 2)),
            Self::FineMs => format!("{} ms", decimal(value, 1)),
            Self::S => format!("{} s", decimal(value, 1)),
            Self::FineS if value.is_infinite() => "no end".to_owned(),
            Self::FineS => format!("{} s", decimal(value, 1 + usize::from(value < 9.995))),
            Self::Hz if value >= 999.5 => format!("{} kHz", three_digits(value / 1000.0)),
            Self::Hz => format!("{} Hz", three_digits(value)),
            Self::Percent => format!("{} %", decimal(value * 100.0, 0)),
            Self::FinePercent => format!("{} %", decimal(value * 100.0, 2)),
            Self::Octaves => format!("{} oct", decimal(value, 2)),
            Self::Expansion if value.is_infinite() => "1 : \u{221e}".to_owned(),
            Self::Expansion => format!("1 : {}", decimal(value, usize::from(value < 99.95))),
            Self::Count => decimal(value, 0),
            Self::Signed => decimal(value, 2),
            Self::Q => decimal(value, usize::from(value < 99.95) + usize::from(value < 9.995)),
            Self::Slope => format!("{} dB/oct", decimal(value, 0)),
            Self::Semitones => format!("{} st", decimal(value, 0)),
            Self::M => format!("{} m", decimal(value, usize::from(value < 99.95))),
            Self::Bits => format!("{} bits", decimal(value, 1)),
            Self::Cents => format!("{} cents", decimal(value, 1)),
            Self::Bpm => format!("{} bpm", decimal(value, 0)),
            Self::PerS => format!("{} per s", decimal(value, usize::from(value < 9.95))),
            Self::Degrees => format!("{}\u{b0}", decimal(value, 0)),
        }
    }

    /// The factor of a suffix that may be typed after a number.
    fn factor(self, suffix: &str) -> Option<f64> {
        match (self, suffix) {
            (Self::Db | Self::Dbfs | Self::Lufs, "db" | "dbfs" | "lufs" | "lu") => Some(1.0),
            (Self::Ratio, ":1") | (Self::Octaves, "oct") | (Self::Semitones, "st") => Some(1.0),
            (Self::Slope, "db/oct" | "db") => Some(1.0),
            (Self::M, "m") | (Self::Bits, "bit" | "bits") | (Self::Cents, "cents") => Some(1.0),
            (Self::Ms | Self::DelayMs | Self::FineMs, "ms")
            | (Self::Bpm, "bpm")
            | (Self::Degrees, "\u{b0}" | "deg")
            | (Self::S | Self::FineS, "s")
            | (Self::Hz, "hz") => Some(1.0),
            (Self::Ms | Self::DelayMs | Self::FineMs, "s") | (Self::Hz, "k" | "khz") => Some(1000.0),
            (Self::S | Self::FineS, "ms") => Some(0.001),
            (Self::PerS, "/s" | "pers") => Some(1.0),
            (Self::Percent | Self::FinePercent, "%" | "") => Some(0.01),
            (_, "") => Some(1.0),
            _ => None,
        }
    }
}

fn three_digits(value: f64) -> String {
    let decimals = if value >= 99.95 {
        0
    } else if value >= 9.995 {
        1
    } else {
        2
    };
    decimal(value, decimals)
}

impl Param {
    /// A value as it stands on the screen: the name of a choice, or the number with its unit.
    #[must_use]
    pub fn text(&self, value: f64) -> String {
        match self.choices.get(clear_bend_sound::cast::count(value)) {
            Some(choice) => (*choice).to_owned(),
            None => self.unit.text(value),
        }
    }

    /// The accepted range as text, e.g. "1 to inf", with the unit where it has one.
    #[must_use]
    pub fn range_text(&self) -> String {
        let unit = match self.unit {
            Unit::Db => " dB",
            Unit::Dbfs => " dBFS",
            Unit::Lufs => " LUFS",
            Unit::Ms | Unit::DelayMs | Unit::FineMs => " ms",
            Unit::Bpm => " bpm",
            Unit::Degrees => " degrees",
            Unit::S | Unit::FineS => " s",
            Unit::Hz => " Hz",
            Unit::Octaves => " oct",
            Unit::Slope => " dB per octave",
            Unit::Semitones => " semitones",
            Unit::M => " m",
            Unit::Bits => " bits",
            Unit::PerS => " per s",
            Unit::Cents => " cents",
            Unit::Ratio
            | Unit::Expansion
            | Unit::Percent
            | Unit::FinePercent
            | Unit::Count
            | Unit::Q
            | Unit::Signed => "",
        };
        if !self.choices.is_empty() {
            let choices = self.choices.iter().enumerate().map(|(i, choice)| format!("{i} ({choice})"));
            return choices.collect::<Vec<_>>().join(", ");
        }
        let steps = match self.step {
            0.0 => String::new(),
            1.0 => ", whole numbers".to_owned(),
            step => format!(", in steps of {step}"),
        };
        format!("{} to {}{unit}{steps}", self.min, self.max)
    }

    /// The smallest step that can be seen in the written value.
    #[must_use]
    pub fn grain(&self, value: f64) -> f64 {
        let value = value.abs();
        match self.unit {
            Unit::Db | Unit::Dbfs | Unit::Lufs | Unit::S => 0.1,
            Unit::Ratio | Unit::Expansion if value < 20.0 => 0.1,
            Unit::Ratio | Unit::Expansion if value < 100.0 => 1.0,
            Unit::Ratio | Unit::Expansion => 10.0,
            Unit::FineS | Unit::FineMs if value < 10.0 => 0.01,
            Unit::FineS | Unit::FineMs => 0.1,
            Unit::M | Unit::Bits | Unit::Cents => 0.1,
            Unit::FinePercent => 0.0001,
            Unit::Ms | Unit::DelayMs if value < 10.0 => 0.1,
            Unit::Ms | Unit::DelayMs if value < 1000.0 => 1.0,
            Unit::Ms | Unit::DelayMs => 10.0,
            Unit::Hz if value < 10.0 => 0.01,
            Unit::Hz if value < 100.0 => 0.1,
            Unit::Hz if value < 1000.0 => 1.0,
            Unit::Hz if value < 10_000.0 => 10.0,
            Unit::Hz => 100.0,
            Unit::Percent | Unit::Signed | Unit::Octaves => 0.01,
            Unit::Q if value < 10.0 => 0.01,
            Unit::Q if value < 100.0 => 0.1,
            Unit::Q | Unit::Count | Unit::Semitones => 1.0,
            Unit::Slope => 6.0,
            Unit::PerS if value < 10.0 => 0.1,
            Unit::PerS if value >= 1000.0 => 10.0,
            Unit::Bpm | Unit::Degrees | Unit::PerS => 1.0,
        }
    }

    /// The value rounded to what is written, so that the text tells the whole truth.
    #[must_use]
    pub fn rounded(&self, value: f64) -> f64 {
        if !value.is_finite() {
            return value;
        }
        // Division by the whole number 1/grain gives the closest representable decimal.
        let grain = self.grain(value);
        if grain < 1.0 {
            let per_unit = (1.0 / grain).round();
            (value * per_unit).round() / per_unit
        } else {
            (value / grain).round() * grain
        }
    }

    /// Reads a typed value: a number with an optional unit ("1.2k", "80 ms", "-6", "inf", "4:1").
    ///
    /// # Errors
    /// Refuses what is not a number with a fitting unit, and values out of range.
    pub fn parse(&self, typed: &str) -> Result<f64, Refusal> {
        let text: String = typed
            .trim()
            .to_lowercase()
            .replace(['\u{2212}', '\u{2013}'], "-")
            .replace(',', ".")
            .replace(' ', "");
        let refused = || {
            let accepted = format!("a number, {}", self.range_text());
            Refusal::new(self.label, format!("\u{201c}{}\u{201d}", typed.trim()), accepted)
        };
        if let Some(choice) = self.choices.iter().position(|c| c.replace(' ', "").to_lowercase() == text) {
            return Ok(clear_bend_sound::cast::real(choice));
        }
        // "1 : 2" is how an expander's ratio is written, "2 : 1" a compressor's.
        let text = text
            .strip_prefix("1:")
            .filter(|_| self.unit == Unit::Expansion)
            .map_or(text.clone(), str::to_owned);
        let bare = text.strip_suffix(":1").filter(|_| self.unit == Unit::Ratio).unwrap_or(&text);
        if matches!(bare, "inf" | "\u{221e}" | "infinity") {
            return self.check(f64::INFINITY).map_err(|_| refused());
        }
        let end = text.find(|c: char| !(c.is_ascii_digit() || "+-.".contains(c))).unwrap_or(text.len());
        let (digits, suffix) = text.split_at(end);
        if let Some(value) = aside::parse(self.unit, &text) {
            // A note or a width is kept as exactly as it was meant.
            return self.check(value).map_err(|_| refused());
        }
        let number: f64 = digits.parse().map_err(|_| refused())?;
        let factor = self.unit.factor(suffix).ok_or_else(refused)?;
        // 70 % are 0.7 and not 70 times 0.01, which is a little more.
        let value = if factor < 1.0 { number / (1.0 / factor).round() } else { number * factor };
        self.check(value).map_err(|_| refused())
    }
}

#[cfg(test)]
mod tests {
    use crate::{Param, Unit};

    #[test]
    fn values_are_written_as_people_say_them() {
        let said = [
            (Unit::Dbfs, -20.0, "\u{2212}20.0 dBFS"),
            (Unit::Db, -0.04, "0.0 dB"),
            (Unit::Ratio, 4.0, "4.0 : 1"),
            (Unit::Ratio, f64::INFINITY, "\u{221e} : 1"),
            (Unit::Ms, 4.0, "4.0 ms"),
            (Unit::Ms, 80.0, "80 ms"),
            (Unit::Ms, 1200.0, "1.20 s"),
            (Unit::Hz, 1250.0, "1.25 kHz"),
            (Unit::Hz, 997.0, "997 Hz"),
            (Unit::Percent, 0.5, "50 %"),
            (Unit::Dbfs, f64::NEG_INFINITY, "silence"),
        ];
        for (unit, value, text) in said {
            assert_eq!(unit.text(value), text);
        }
    }

    #[test]
    fn typed_values_take_units_and_refusals_say_what_is_accepted() {
        let param = |unit, min, max| Param { label: "Value", unit, min, max, ..Param::BLANK };
        assert_eq!(param(Unit::Hz, 20.0, 20_000.0).parse("1.2k"), Ok(1200.0));
        assert_eq!(param(Unit::Ms, 0.0, 5000.0).parse(" 80 ms"), Ok(80.0));
        assert_eq!(param(Unit::Ms, 0.0, 5000.0).parse("1,5 s"), Ok(1500.0));
        assert_eq!(param(Unit::Dbfs, -60.0, 0.0).parse("\u{2212}6 dB"), Ok(-6.0));
        assert_eq!(param(Unit::Ratio, 1.0, f64::INFINITY).parse("inf"), Ok(f64::INFINITY));
        assert_eq!(param(Unit::Ratio, 1.0, f64::INFINITY).parse("\u{221e} : 1"), Ok(f64::INFINITY));
        assert_eq!(param(Unit::Percent, 0.0, 1.0).parse("50"), Ok(0.5));
        for typed in ["", "loud", "3 dB", "-1", "nan", "1e9", "inf"] {
            let refusal = param(Unit::Ms, 0.0, 500.0).parse(typed).unwrap_err();
            assert_eq!(
                refusal.to_string(),
                format!("Value is \u{201c}{typed}\u{201d}; accepted: a number, 0 to 500 ms")
            );
        }
    }
}
