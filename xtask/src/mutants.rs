//! What the tests do not notice: mutants of effects and measures, drawn by chance, each against the tests of its own folder.
//!
//! `cargo xtask mutants [COUNT] [SEED]`: cargo-mutants lists what could be changed, so many of these are drawn, and each is written into a
//! tree of its own and tried. Those that live stand at the end, and in docs/tests.md with the reason why each may.

use std::collections::{BTreeMap, BTreeSet};
use std::fmt::Write as _;
use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};
use std::time::Instant;

use anyhow::{Context, Result, bail};
use clear_bend_signals::SplitMix64;
use serde_json::Value;

use crate::{root, run};

/// The tool that lists what could be changed, as it was when this was written.
const TOOL: &str = "cargo-mutants@27.1.0";
/// How many are drawn.
const COUNT: usize = 400;
/// A mutant that keeps its tests busy for longer than this is caught, s.
const LONGEST_S: &str = "600";
/// The folders of a crate, and the words in the names of their tests.
type Folders = &'static [(&'static str, &'static [&'static str])];
/// The crates, and for each of their folders the words in the names of its tests; none: all tests of the crate.
const TESTS: &[(&str, Folders)] = &[
    (
        "effects",
        &[
            ("autopan", &["modulation"]),
            ("chorus", &["modulation", "chorus"]),
            ("compressor", &["compressor", "dynamics::", "timing", "gains"]),
            ("convolution", &["convolution", "turns"]),
            ("deesser", &["dynamics::", "deesser"]),
            ("dynamics", &["compressor", "dynamics::", "timing", "gains", "true_peaks"]),
            ("equaliser", &["equaliser", "any_bands", "shapes"]),
            ("flanger", &["modulation", "flanger"]),
            ("gain", &["gains"]),
            ("gate", &["dynamics::", "gate"]),
            ("limiter", &["dynamics::", "limiter", "true_peaks"]),
            ("modulation", &["modulation"]),
            ("multiband", &["dynamics::", "multiband"]),
            ("phaser", &["modulation", "phaser"]),
            ("reverb", &["reverb"]),
            ("saturation", &["gains", "saturation"]),
            ("tone", &["reverb", "convolution"]),
            ("tremolo", &["modulation"]),
            ("vibrato", &["modulation"]),
        ],
    ),
    (
        "measures",
        &[
            ("modulation", &["movement_seen", "modulation"]),
            ("movement", &["movement_seen"]),
            ("room", &["room_measures", "judged", "true_decays", "room::"]),
            ("sweeps", &["sweeps"]),
        ],
    ),
];

/// A change that somebody could make without meaning to.
struct Mutant {
    file: String,
    /// What it does, in words.
    what: String,
    /// First line and column, and those behind the last, from 1.
    from: (usize, usize),
    to: (usize, usize),
    replacement: String,
}

/// What became of one.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
enum Fate {
    Caught,
    Lives,
    /// The compiler does not take it.
    Unbuilt,
}

impl Mutant {
    fn of(value: &Value) -> Option<Self> {
        let place = |end: &str| {
            let of = |key: &str| usize::try_from(value["span"][end][key].as_u64()?).ok();
            Some((of("line")?, of("column")?))
        };
        let file = value["file"].as_str()?.to_owned();
        let replacement = value["replacement"].as_str()?.to_owned();
        let what = value["name"].as_str()?.to_owned();
        let (from, to) = (place("start")?, place("end")?);
        Some(Self { file, what, from, to, replacement })
    }

    /// The crate, and the words of its tests.
    fn tests(&self) -> Option<(&'static str, &'static [&'static str])> {
        let within = self.file.strip_prefix("crates/core/")?;
        let (name, folders) = TESTS.iter().find(|(name, _)| within.starts_with(&format!("{name}/src/")))?;
        let folder = within[name.len() + "/src/".len()..].split(['/', '.']).next()?;
        let words = folders.iter().find(|(other, _)| *other == folder).map_or(&[][..], |(_, words)| words);
        Some((name, words))
    }

    /// A source text with the change in it.
    fn put(&self, text: &str) -> Option<String> {
        let place = |(line, column): (usize, usize)| {
            let start: usize = text.split_inclusive('\n').take(line - 1).map(str::len).sum();
            let within = text[start..].char_indices().nth(column - 1)?.0;
            Some(start + within)
        };
        let (from, to) = (place(self.from)?, place(self.to)?);
        Some(format!("{}{}{}", &text[..from], self.replacement, &text[to..]))
    }
}

/// Draws mutants, tries each and tells which live.
pub fn run_all(count: Option<&str>, seed: Option<&str>) -> Result<()> {
    let count = count.map_or(Ok(COUNT), str::parse).context("COUNT is a number")?;
    let seed = seed.map_or(Ok(1), str::parse).context("SEED is a number")?;
    let all = listed()?;
    let drawn = drawn(all.len(), count, seed);
    println!("{} of {} mutants, seed {seed}", drawn.len(), all.len());
    let tree = tree()?;
    let needed: BTreeSet<_> = drawn.iter().filter_map(|at| all[*at].tests()).collect();
    for tests in needed {
        if tried(&tree, tests)? != Fate::Lives {
            bail!("the tests of {} ({:?}) fail without any change", tests.0, tests.1);
        }
    }
    let mut fates: BTreeMap<Fate, usize> = BTreeMap::new();
    let mut living = String::new();
    for (number, at) in drawn.iter().enumerate() {
        let mutant = &all[*at];
        let Some(tests) = mutant.tests() else { continue };
        let file = tree.join(&mutant.file);
        let text = std::fs::read_to_string(&file).with_context(|| mutant.file.clone())?;
        let changed =
            mutant.put(&text).with_context(|| format!("{} lies outside of its file", mutant.what))?;
        let start = Instant::now();
        std::fs::write(&file, changed)?;
        let fate = tried(&tree, tests);
        std::fs::write(&file, text)?;
        let fate = fate?;
        *fates.entry(fate).or_default() += 1;
        let said = match fate {
            Fate::Caught => "caught",
            Fate::Lives => "LIVES",
            Fate::Unbuilt => "not built",
        };
        println!("{}/{} {said}, {} s: {}", number + 1, drawn.len(), start.elapsed().as_secs(), mutant.what);
        if fate == Fate::Lives {
            writeln!(living, "{}", mutant.what)?;
        }
    }
    let of = |fate| fates.get(&fate).copied().unwrap_or(0);
    let (caught, lives) = (of(Fate::Caught), of(Fate::Lives));
    let (low, high) = interval(lives, caught + lives);
    println!("{caught} caught, {lives} live, {} are not built", of(Fate::Unbuilt));
    println!("{:.1} to {:.1} % of all would live (95 %, Wilson)", 100.0 * low, 100.0 * high);
    print!("{living}");
    Ok(())
}

/// Everything that could be changed.
fn listed() -> Result<Vec<Mutant>> {
    let tools = root().join("var/tools");
    let tool = tools.join("bin/cargo-mutants");
    if !tool.exists() {
        run(Command::new("cargo").args(["install", "--locked", TOOL, "--root"]).arg(&tools))?;
    }
    let mut list = Command::new(tool);
    list.args(["mutants", "--list", "--json"]).current_dir(root());
    for (name, _) in TESTS {
        list.args(["--package", &format!("clear-bend-{name}")]);
    }
    let output = list.stderr(Stdio::inherit()).output().context("cargo-mutants cannot be started")?;
    if !output.status.success() {
        bail!("cargo-mutants ended with {}", output.status);
    }
    let all: Vec<Value> =
        serde_json::from_slice(&output.stdout).context("the list of cargo-mutants is no JSON")?;
    // Words that a parameter is without are held by the list of the whole catalogue, in another crate.
    let told = |value: &&Value| value["genre"] != "StructField";
    let mutants: Option<Vec<Mutant>> = all.iter().filter(told).map(Mutant::of).collect();
    mutants.filter(|all| !all.is_empty()).with_context(|| format!("the list is not as {TOOL} writes it"))
}

/// So many places of all, by chance, each once.
fn drawn(all: usize, count: usize, seed: u64) -> Vec<usize> {
    let mut random = SplitMix64::new(seed, 0);
    let mut left: Vec<usize> = (0..all).collect();
    let mut found = Vec::new();
    while found.len() < count && !left.is_empty() {
        let at = 0.5 * (random.bipolar() + 1.0) * f64::from(u32::try_from(left.len()).unwrap_or(u32::MAX));
        let at = (at as usize).min(left.len() - 1);
        found.push(left.swap_remove(at));
    }
    found
}

/// A tree of its own, as it was committed last.
fn tree() -> Result<PathBuf> {
    let tree = root().join("target/mutants/tree");
    let git = |arguments: &[&str], at: &Path| run(Command::new("git").args(arguments).current_dir(at));
    if tree.exists() {
        git(&["worktree", "remove", "--force", "target/mutants/tree"], &root())?;
    }
    git(&["worktree", "add", "--force", "--detach", "target/mutants/tree", "HEAD"], &root())?;
    Ok(tree)
}

/// Runs tests in the tree.
fn tried(tree: &Path, (name, words): (&str, &[&str])) -> Result<Fate> {
    let mut cargo = Command::new("timeout");
    cargo
        .args([LONGEST_S, "cargo", "test", "--locked", "--lib", "--test", "all", "--package"])
        .arg(format!("clear-bend-{name}"))
        .arg("--")
        .args(words)
        .current_dir(tree)
        .env("CARGO_TARGET_DIR", root().join("target/mutants/build"))
        .env("PROPTEST_RNG_SEED", "20261126")
        .env("PROPTEST_FAILURE_PERSISTENCE", "off")
        .env("RUST_BACKTRACE", "0");
    let output = cargo.output().context("cargo cannot be started")?;
    let said = String::from_utf8_lossy(&output.stderr);
    Ok(if output.status.success() {
        Fate::Lives
    } else if said.contains("could not compile") {
        Fate::Unbuilt
    } else {
        Fate::Caught
    })
}

/// Within which a share lies of which so many of all were found, with 95 % (Wilson, J. Am. Stat. Assoc. 22, 1927).
fn interval(found: usize, all: usize) -> (f64, f64) {
    let real = |count: usize| f64::from(u32::try_from(count).unwrap_or(u32::MAX));
    let (n, z) = (real(all.max(1)), 1.96f64);
    let share = real(found) / n;
    let middle = (share + z * z / (2.0 * n)) / (1.0 + z * z / n);
    let half = z / (1.0 + z * z / n) * (share * (1.0 - share) / n + z * z / (4.0 * n * n)).sqrt();
    ((middle - half).max(0.0), (middle + half).min(1.0))
}

#[cfg(test)]
mod tests {
    use super::{Mutant, drawn, interval};

    fn mutant(file: &str, from: (usize, usize), to: (usize, usize), replacement: &str) -> Mutant {
        let [file, replacement] = [file, replacement].map(str::to_owned);
        Mutant { file, what: String::new(), from, to, replacement }
    }

    #[test]
    fn a_change_is_put_where_it_belongs() {
        let text = "fn f() {\n    // für\n    a + b\n}\n";
        let of = |from, to, replacement| mutant("", from, to, replacement).put(text);
        assert_eq!(of((3, 7), (3, 8), "*").unwrap(), "fn f() {\n    // für\n    a * b\n}\n");
        assert_eq!(of((2, 5), (3, 10), "0").unwrap(), "fn f() {\n    0\n}\n");
        assert_eq!(of((3, 99), (3, 100), "0"), None);
    }

    #[test]
    fn a_file_has_the_tests_of_its_folder() {
        let tests = |file| mutant(file, (1, 1), (1, 1), "").tests();
        let compressor = tests("crates/core/effects/src/compressor/curve.rs").unwrap();
        assert!(compressor.0 == "effects" && compressor.1.contains(&"compressor"));
        assert_eq!(tests("crates/core/effects/src/gain.rs").unwrap().1, ["gains"]);
        assert_eq!(tests("crates/core/measures/src/levels.rs").unwrap(), ("measures", &[][..]));
        assert_eq!(tests("crates/core/sound/src/cast.rs"), None);
    }

    #[test]
    fn the_same_seed_draws_the_same_and_none_twice() {
        let mut found = drawn(1000, 400, 7);
        assert_eq!(found, drawn(1000, 400, 7));
        assert_ne!(found, drawn(1000, 400, 8));
        found.sort_unstable();
        found.dedup();
        assert_eq!(found.len(), 400);
        assert_eq!(drawn(3, 10, 1).len(), 3);
    }

    /// Newcombe, "Two-sided confidence intervals for the single proportion" (Stat. Med. 17, 1998), table I, from memory: 81 of 263 is
    /// 0.2553 to 0.3662, 15 of 148 is 0.0624 to 0.1605, 0 of 20 is 0 to 0.1611.
    #[test]
    fn intervals_are_those_of_the_table() {
        for (found, all, low, high) in
            [(81, 263, 0.2553, 0.3662), (15, 148, 0.0624, 0.1605), (0, 20, 0.0, 0.1611)]
        {
            let (from, to) = interval(found, all);
            assert!(
                (from - low).abs() < 1e-4 && (to - high).abs() < 1e-4,
                "{found} of {all}: {from} to {to}"
            );
        }
    }
}
