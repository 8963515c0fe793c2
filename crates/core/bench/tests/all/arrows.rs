//! The order of the house: no file of the core, nor of its module for the browser, uses another one that uses it, by whatever way. That
//! crates have an order, Cargo holds.

use std::collections::{BTreeMap, BTreeSet};
use std::path::Path;

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

/// A name that a file brings in, and from where.
#[derive(Debug, PartialEq)]
struct Import {
    path: Vec<String>,
    name: String,
    hands_on: bool,
}

/// What a file defines and names.
#[derive(Debug, Default)]
struct Source {
    defines: BTreeSet<String>,
    imports: Vec<Import>,
    /// Paths of two words and more outside of imports.
    paths: Vec<Vec<String>>,
    words: BTreeSet<String>,
}

/// The words and signs of a source text, without comments, texts and lifetimes.
fn tokens(text: &str) -> Vec<String> {
    let chars: Vec<char> = text.chars().collect();
    let is_word = |c: char| c.is_alphanumeric() || c == '_';
    let (mut found, mut i) = (Vec::new(), 0);
    while i < chars.len() {
        match chars[i] {
            '"' => {
                i += 1;
                while i < chars.len() && chars[i] != '"' {
                    i += if chars[i] == '\\' { 2 } else { 1 };
                }
                i += 1;
            }
            // A letter in quotes, or a lifetime.
            '\'' if chars.get(i + 1) == Some(&'\\') => i += 4,
            '\'' if chars.get(i + 2) == Some(&'\'') => i += 3,
            '\'' => {
                i += 1;
                while i < chars.len() && is_word(chars[i]) {
                    i += 1;
                }
            }
            '/' if chars.get(i + 1) == Some(&'/') => {
                while i < chars.len() && chars[i] != '\n' {
                    i += 1;
                }
            }
            c if is_word(c) => {
                let from = i;
                while i < chars.len() && is_word(chars[i]) {
                    i += 1;
                }
                found.push(chars[from..i].iter().collect());
            }
            ':' if chars.get(i + 1) == Some(&':') => {
                found.push("::".to_owned());
                i += 2;
            }
            c => {
                if !c.is_whitespace() {
                    found.push(c.to_string());
                }
                i += 1;
            }
        }
    }
    found
}

/// The imports of one `use`, whose tree begins after these words; says how many tokens it has.
fn tree(tokens: &[String], before: &[String], hands_on: bool, into: &mut Vec<Import>) -> usize {
    let (mut path, mut i) = (before.to_vec(), 0);
    let mut name = None;
    while let Some(token) = tokens.get(i) {
        match token.as_str() {
            "::" => {}
            "as" => {
                name = tokens.get(i + 1).cloned();
                i += 1;
            }
            "{" => {
                i += 1;
                while tokens.get(i).is_some_and(|token| token != "}") {
                    i += tree(&tokens[i..], &path, hands_on, into);
                    i += usize::from(tokens.get(i).is_some_and(|token| token != "}"));
                }
                return i + 1;
            }
            "," | "}" | ";" => break,
            word => path.push(word.to_owned()),
        }
        i += 1;
    }
    if path.last().is_some_and(|word| word == "self") {
        path.pop();
    }
    let name = name.or_else(|| path.last().cloned()).unwrap_or_default();
    into.push(Import { path, name, hands_on });
    i
}

fn read(text: &str) -> Source {
    let tokens = tokens(text);
    let mut source = Source::default();
    let at = |i: usize| tokens.get(i).map_or("", String::as_str);
    let mut i = 0;
    while i < tokens.len() {
        match at(i) {
            "use" => {
                let hands_on = i > 0 && (at(i - 1) == "pub" || at(i - 1) == ")");
                i += 1;
                i += tree(&tokens[i..], &[], hands_on, &mut source.imports);
            }
            // Where a file is, is no arrow to it.
            "mod" if at(i + 2) == ";" => i += 2,
            "fn" | "struct" | "enum" | "trait" | "const" | "static" | "type" => {
                source.defines.insert(at(i + 1).to_owned());
            }
            "macro_rules" => {
                source.defines.insert(at(i + 2).to_owned());
            }
            word if word.chars().all(|c| c.is_alphanumeric() || c == '_') => {
                let mut path = vec![word.to_owned()];
                while at(i + 1) == "::" && at(i + 2).chars().all(|c| c.is_alphanumeric() || c == '_') {
                    path.push(at(i + 2).to_owned());
                    i += 2;
                }
                source.words.insert(path[0].clone());
                if path.len() > 1 {
                    source.paths.push(path);
                }
            }
            _ => {}
        }
        i += 1;
    }
    source
}

/// With what the names of our crates begin.
const PREFIX: &str = "clear_bend_";

/// The files by their crates and modules.
struct House(BTreeMap<Vec<String>, Source>);

impl House {
    /// A path as it is from its crate on, named in a module; none where it leads out of the house.
    fn whole(&self, module: &[String], path: &[String]) -> Option<Vec<String>> {
        let (first, rest) = path.split_first()?;
        let below = |from: &[String], rest: &[String]| Some([from, rest].concat());
        match first.as_str() {
            "crate" => below(&module[..1], rest),
            other if other.starts_with(PREFIX) => Some([&[other[PREFIX.len()..].to_owned()], rest].concat()),
            "self" => below(module, rest),
            "super" => {
                let ups = path.iter().take_while(|word| *word == "super").count();
                below(&module[..module.len().saturating_sub(ups)], &path[ups..])
            }
            _ => self
                .0
                .contains_key(&[module, std::slice::from_ref(first)].concat())
                .then(|| [module, path].concat()),
        }
    }

    /// The file that defines what a whole path leads to, through whoever hands it on; none where that is a file itself, or elsewhere.
    fn defining(&self, path: &[String], asked: &mut BTreeSet<Vec<String>>) -> Option<Vec<String>> {
        // Two files may hand each other on.
        if !asked.insert(path.to_vec()) {
            return None;
        }
        let ends = (0..=path.len()).rev().find(|end| self.0.contains_key(&path[..*end]))?;
        let (module, rest) = path.split_at(ends);
        let (name, source) = (rest.first()?, &self.0[module]);
        if source.defines.contains(name) {
            return Some(module.to_vec());
        }
        let mut named = source.imports.iter().filter(|import| import.name == *name || import.name == "*");
        named.find_map(|import| {
            let star = usize::from(import.name == "*");
            let from = self.whole(module, &import.path[..import.path.len() - star])?;
            self.defining(&[&from[..], &rest[1 - star..]].concat(), asked)
        })
    }

    /// The files that a file needs.
    fn arrows(&self, module: &[String]) -> BTreeSet<Vec<String>> {
        let source = &self.0[module];
        let mut brought: BTreeMap<&str, Vec<String>> = BTreeMap::new();
        let mut needed: Vec<Vec<String>> = Vec::new();
        for Import { path, name, hands_on } in &source.imports {
            // What is only handed on is not needed here.
            if *hands_on && !source.words.contains(name) {
                continue;
            }
            if let Some(whole) = self.whole(module, path) {
                brought.insert(name, whole.clone());
                needed.push(whole);
            }
        }
        for path in &source.paths {
            needed.extend(match brought.get(path[0].as_str()) {
                Some(whole) => Some([whole, &path[1..]].concat()),
                None => self.whole(module, path),
            });
        }
        let found = needed.iter().filter_map(|path| self.defining(path, &mut BTreeSet::new()));
        found.filter(|other| other != module).collect()
    }
}

/// What is left of some arrows once nothing can be taken away any more that has none to the rest, or none from it: circles, and what
/// lies between them.
fn circles(mut arrows: BTreeMap<Vec<String>, BTreeSet<Vec<String>>>) -> Vec<String> {
    loop {
        let before = arrows.len();
        let left: BTreeSet<Vec<String>> = arrows.keys().cloned().collect();
        arrows.values_mut().for_each(|to| to.retain(|file| left.contains(file)));
        let used: BTreeSet<Vec<String>> = arrows.values().flatten().cloned().collect();
        arrows.retain(|file, to| !to.is_empty() && used.contains(file));
        if arrows.len() == before {
            break;
        }
    }
    let line = |(from, to): (&Vec<String>, &BTreeSet<Vec<String>>)| {
        let to: Vec<String> = to.iter().map(|file| file.join("/")).collect();
        format!("{} -> {}", from.join("/"), to.join(", "))
    };
    arrows.iter().map(line).collect()
}

/// Files without their own tests, which may use whatever they like.
fn house(texts: impl IntoIterator<Item = (Vec<String>, String)>) -> House {
    let tested = |text: &str| read(text.split("#[cfg(test)]").next().unwrap_or(""));
    House(texts.into_iter().map(|(module, text)| (module, tested(&text))).collect())
}

#[test]
fn no_file_is_in_a_circle() {
    let core = Path::new(env!("CARGO_MANIFEST_DIR")).join("..");
    let mut crates = vec![core.join("../wasm")];
    crates.extend(std::fs::read_dir(&core).unwrap().map(|entry| entry.unwrap().path()));
    let mut texts = Vec::new();
    for folder in crates {
        let root = folder.join("src");
        let mut all = Vec::new();
        files(&root, &mut all);
        texts.extend(all.iter().map(|file| {
            let within = file.strip_prefix(&root).unwrap().with_extension("");
            let words = folder.file_name().into_iter().chain(within.iter());
            let module = words.map(|word| word.to_str().unwrap().to_owned());
            (
                module.filter(|word| word != "mod" && word != "lib").collect(),
                std::fs::read_to_string(file).unwrap(),
            )
        }));
    }
    let house = house(texts);
    let arrows: BTreeMap<_, _> =
        house.0.keys().map(|module| (module.clone(), house.arrows(module))).collect();
    let count: usize = arrows.values().map(BTreeSet::len).sum();
    println!("{} files, {count} arrows", arrows.len());
    assert!(count > 1300, "only {count} arrows were found: the reader of the sources misses some");
    assert_eq!(circles(arrows), Vec::<String>::new());
}

/// The reader follows names to where they are defined, and finds a circle however it is closed.
#[test]
fn circles_are_found_through_what_is_handed_on() {
    let found = |texts: &[(&str, &str)]| {
        let module = |name: &str| {
            ["one"]
                .into_iter()
                .chain(name.split('/'))
                .filter(|word| !word.is_empty())
                .map(str::to_owned)
                .collect()
        };
        let house = house(texts.iter().map(|(name, text)| (module(name), (*text).to_owned())));
        circles(house.0.keys().map(|module| (module.clone(), house.arrows(module))).collect())
    };
    // A list that names all, each of which takes what it is from a third.
    let list = ("list", "mod kind; mod one;\npub use kind::Kind;\nconst ALL: &[&Kind] = &[&one::ONE];");
    let one = ("list/one", "use super::Kind;\npub const ONE: Kind = Kind;");
    assert_eq!(found(&[("", "pub mod list;"), list, ("list/kind", "pub struct Kind;"), one]), [""; 0]);
    // The same with the kind in the list itself.
    let both =
        ("list", "mod one;\npub struct Kind;\nconst ALL: &[&Kind] = &[&one::ONE]; // crate::other::Thing");
    assert_eq!(found(&[("", ""), both, one]), ["one/list -> one/list/one", "one/list/one -> one/list"]);
    // By a path in the middle of a function, and through a name for a module.
    let a = (
        "a",
        "use crate::b::{self, Inner as Other};\nfn f() -> Other { b::make(\"crate::c::x\") }\npub struct Own<'a>(&'a u8);",
    );
    let b = ("b", "pub struct Inner;\npub fn make() { let x = crate::a::Own; }");
    assert_eq!(found(&[("", ""), a, b]), ["one/a -> one/b", "one/b -> one/a"]);
    let quiet = ("b", "pub struct Inner;\npub fn make() {}\n#[cfg(test)]\nmod tests { use crate::a::Own; }");
    assert_eq!(found(&[("", ""), a, quiet]), [""; 0]);
}
