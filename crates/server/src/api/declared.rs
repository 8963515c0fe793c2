//! What the page knows of the answers: their types in TypeScript, written from Rust into `web/src/api/answers.ts`, which is kept; a
//! test holds it to the Rust types. Every answer carries the number of that file, so that a page and a server that were made
//! from different states of the program find out before they misunderstand each other.

use clear_bend_sound::agreed::number;

/// The header that carries the number.
pub const HEADER: &str = "x-answers";

/// The number of the declarations.
pub const NUMBER: u32 = number(without_last_line(include_bytes!("../../../../web/src/api/answers.ts")));

/// The last line says the number.
const fn without_last_line(text: &[u8]) -> &[u8] {
    let mut end = text.len().saturating_sub(1);
    while end > 0 && text[end - 1] != b'\n' {
        end -= 1;
    }
    text.split_at(end).0
}

/// The file as it should be.
#[cfg(feature = "typescript")]
#[must_use]
pub fn written() -> String {
    use clear_bend_media::Format;
    use clear_bend_store::{Saved, Summary, Track};
    use ts_rs::{Config, TS};

    use super::error::Envelope;
    use super::exports::What;
    use super::{Health, Place, Whereabouts};

    fn declared<T: TS>(config: &Config) -> String {
        let about = T::docs().map(|docs| docs.trim_end().to_owned() + "\n").unwrap_or_default();
        format!("{about}export {}\n\n", T::decl(config))
    }

    let config = Config::new();
    let formats: Vec<String> = Format::ALL.iter().map(|(name, _)| format!("{name:?}")).collect();
    let text = [
        "/** What the server answers, as Rust declares it. Written by the tests of the API with `CLEAR_BEND_WRITE=1`. */\n".to_owned(),
        "import type { ResponseAbout } from \"../generated/types/ResponseAbout\";\n\n".to_owned(),
        declared::<Summary>(&config),
        declared::<Saved>(&config),
        declared::<Track>(&config),
        declared::<Whereabouts>(&config),
        declared::<Health>(&config),
        declared::<Place>(&config),
        declared::<What>(&config),
        format!("/**\n * Kinds of sound files.\n */\nexport type SoundFormat = {};\n\n", formats.join(" | ")),
        format!("export {}\n\n", <Envelope<'_> as TS>::decl(&config).replace("FaultContent", "{ code: string, message: string, }")),
    ]
    .concat();
    format!("{text}export const ANSWERS = {};\n", number(text.as_bytes()))
}
