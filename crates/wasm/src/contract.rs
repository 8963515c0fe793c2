//! What the audio thread and those who call it know of each other. There is no generated glue in an audio thread: its side of
//! the calls is written down from here (`cargo xtask types`), and one number tells at the start whether both sides were made from
//! the same.

use std::fmt::Write;

use clear_bend_playing::live::Hear;
use clear_bend_playing::live::Meters;
use clear_bend_playing::mix::MOST_SHARED;
use clear_bend_sound::agreed::number;
use wasm_bindgen::prelude::wasm_bindgen;

use crate::exports::Export;
use crate::live::EXPORTS;

/// The one number of all that is agreed on, for the audio thread to ask: names, order and kinds of exports, meters and what is heard.
#[wasm_bindgen]
#[must_use]
pub fn live_contract() -> u32 {
    number(agreed().as_bytes())
}

fn agreed() -> String {
    let exports = EXPORTS.iter().map(|Export { name, takes, answers }| format!("{name}{takes:?}{answers}"));
    let meters = Meters::default().named().map(|(name, _)| name.to_owned());
    let shared = MOST_SHARED.to_string();
    exports.chain(meters).chain(heard()).chain([shared]).collect::<Vec<_>>().join("\n")
}

/// What can be heard, by the words of the document.
fn heard() -> impl Iterator<Item = String> {
    Hear::ALL.into_iter().map(|hear| crate::word(&hear))
}

/// The same for TypeScript.
#[must_use]
pub fn written() -> String {
    let mut text = String::from(
        "/** What the audio thread and the page know of each other. Written by `cargo xtask types`. */\n\
         import type { Hear } from \"./types/Hear\";\nimport type { Meters } from \"./types/Meters\";\n\n\
         /** Whether something was accepted: 1 or 0. */\nexport type Accepted = number;\n\n\
         /** The plain exports of crates/wasm/src/live.rs. */\nexport interface LiveExports {\n  memory: WebAssembly.Memory;\n",
    );
    for Export { name, takes, answers } in EXPORTS {
        let takes: Vec<String> = takes.iter().map(|(name, _)| format!("{name}: number")).collect();
        let answers = match *answers {
            "" => "void",
            "bool" => "Accepted",
            _ => "number",
        };
        let _ = writeln!(text, "  {name}({}): {answers};", takes.join(", "));
    }
    text.push_str("  live_contract(): number;\n");
    let heard: Vec<String> = heard().enumerate().map(|(place, word)| format!("{word}: {place}")).collect();
    let _ = write!(
        text,
        "}}\n\n/** The number of all that is here; the module has its own. */\nexport const LIVE_CONTRACT = {};\n\n\
         export const HEAR: Record<Hear, number> = {{ {} }};\n\n\
         /** The most shared paths of a bench. */\n\
         export const MOST_SHARED = {MOST_SHARED};\n\n\
         export const METERS = {};\n\n\
         export function metersOf(numbers: Float32Array): Meters {{\n  const at = (place: number) => numbers[place] ?? 0;\n  return {{\n",
        live_contract(),
        heard.join(", "),
        Meters::COUNT
    );
    let meters = serde_json::to_value(Meters::default()).unwrap_or_default();
    for (place, (name, _)) in Meters::default().named().into_iter().enumerate() {
        let is_switch = meters.get(name).is_some_and(serde_json::Value::is_boolean);
        let _ = writeln!(text, "    {name}: at({place}){},", if is_switch { " > 0" } else { "" });
    }
    text.push_str("  };\n}\n");
    text
}

#[cfg(test)]
mod tests {
    use super::*;

    /// The names of the numbers are those of the fields, each with its own value.
    #[test]
    fn meters_are_named_as_their_fields() {
        let meters = Meters {
            position_s: 1.0,
            playing: true,
            before_peak: 2.0,
            after_peak: 3.0,
            before_rms: 4.0,
            after_rms: 5.0,
            gain_db: 6.0,
            heard_peak: 7.0,
            own_peak: 8.0,
        };
        let fields = serde_json::to_value(meters).unwrap();
        assert_eq!(fields.as_object().unwrap().len(), Meters::COUNT);
        for (name, value) in meters.named() {
            let field = &fields[name];
            let field = field.as_f64().unwrap_or_else(|| f64::from(u8::from(field.as_bool().unwrap())));
            assert_eq!(f64::from(value), field, "{name}");
        }
    }

    /// Another order of two exports, another argument or another meter is another number.
    #[test]
    fn what_is_agreed_names_everything() {
        let agreed = agreed();
        for Export { name, takes, .. } in EXPORTS {
            assert!(agreed.contains(name) && takes.iter().all(|(arg, _)| agreed.contains(arg)), "{name}");
        }
        assert!(agreed.contains("own_peak\nbefore\nafter\ndifference\nreference"), "{agreed}");
        assert!(written().contains("live_set_hear(hear: number): Accepted;"));
    }
}
