//! The order of the core's modules: each may use those above it in this list, and none below.

use std::path::Path;

/// From numbers up to what is played.
const ORDER: [&str; 30] = [
    "cast",
    "refusal",
    "level",
    "scope",
    "audio",
    "dsp",
    "catalogue",
    "document",
    "ear_maps",
    "region",
    "signals",
    "effects",
    "offered",
    "path",
    "render",
    "mix",
    "measures",
    "passage",
    "sweeps",
    "responses",
    "export",
    "outcomes",
    "report",
    "bend",
    "fan",
    "bench",
    "origin",
    "live",
    "schema",
    "lib",
];

/// The modules that a source text names as `crate::...`, alone or in braces, but for what the crate hands on by itself.
fn named(text: &str) -> Vec<String> {
    let code: String =
        text.lines().map(|line| line.split("//").next().unwrap_or("")).collect::<Vec<_>>().join("\n");
    let mut found = Vec::new();
    for after in code.split("crate::").skip(1) {
        let (mut depth, mut word, mut fresh) = (0, String::new(), true);
        for c in after.chars() {
            match c {
                'a'..='z' | 'A'..='Z' | '0'..='9' | '_' if fresh => word.push(c),
                '{' | '}' | ',' | ' ' | '\n' | ':' | ';' | '(' | ')' | '<' | '>' => {
                    if fresh && !word.is_empty() && depth < 2 {
                        found.push(std::mem::take(&mut word));
                    }
                    word.clear();
                    depth += i32::from(c == '{') - i32::from(c == '}');
                    // Only what follows a brace or a comma of the outer list is a module.
                    fresh = depth == 1 && (c == '{' || c == ',' || c.is_whitespace());
                    if depth <= 0 {
                        break;
                    }
                }
                _ => fresh = false,
            }
        }
    }
    let own = |name: &String| match name.as_str() {
        "Buffer" => "audio".to_owned(),
        "Refusal" => "refusal".to_owned(),
        // The macro of the catalogue.
        "settings" => "catalogue".to_owned(),
        other => other.to_owned(),
    };
    found.iter().map(own).collect()
}

fn files(folder: &Path, found: &mut Vec<std::path::PathBuf>) {
    for entry in std::fs::read_dir(folder).unwrap() {
        let path = entry.unwrap().path();
        if path.is_dir() {
            files(&path, found);
        } else if path.extension().is_some_and(|end| end == "rs") {
            found.push(path);
        }
    }
}

#[test]
fn arrows_point_down() {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("src");
    let mut all = Vec::new();
    files(&root, &mut all);
    let rank = |module: &str| ORDER.iter().position(|name| *name == module);
    let mut wrong = Vec::new();
    let mut arrows = 0;
    for file in &all {
        let within = file.strip_prefix(&root).unwrap();
        let module = within.iter().next().unwrap().to_str().unwrap().trim_end_matches(".rs");
        let own = rank(module).unwrap_or_else(|| panic!("{module} stands nowhere in the order"));
        for used in named(&std::fs::read_to_string(file).unwrap()) {
            match rank(&used) {
                Some(other) if other <= own => arrows += usize::from(other < own),
                Some(_) => wrong.push(format!("{} uses {used}", within.display())),
                None => panic!("{} names crate::{used}, which is no module", within.display()),
            }
        }
    }
    assert_eq!(wrong, Vec::<String>::new());
    assert!(arrows > 200, "only {arrows} arrows were found: the reader of the sources misses some");
}

#[test]
fn the_reader_of_the_sources_finds_what_is_named() {
    let text = "use crate::dsp::{Delay, Ramp};\nuse crate::{Buffer, path::{Path, Stage}, level};\n// crate::nothing\nlet x = crate::cast::real(1);";
    assert_eq!(named(text), ["dsp", "audio", "path", "level", "cast"]);
}
