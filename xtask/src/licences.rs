//! What the program is made of that others have written, for the page: name, version and licence of every package that is shipped.

use std::collections::{BTreeMap, BTreeSet};
use std::path::Path;
use std::process::Command;

use anyhow::{Context, Result, bail};
use serde_json::{Value, json};

/// The packages that are shipped, and for what: what others need elsewhere is no part of them.
const SHIPPED: [(&str, &str); 2] =
    [("clear-bend-app", "x86_64-unknown-linux-gnu"), ("clear-bend-wasm", "wasm32-unknown-unknown")];

/// Writes `web/src/generated/licences.json`; the front end's packages are installed.
pub fn write() -> Result<()> {
    let root = crate::root();
    let mut all = of_npm(&root.join("web"))?;
    for (package, platform) in SHIPPED {
        all.extend(of_crates(&root, package, platform)?);
    }
    let listed: Vec<Value> = all
        .into_iter()
        .map(|((name, version), licence)| json!({"name": name, "version": version, "licence": licence}))
        .collect();
    let file = root.join("web/src/generated/licences.json");
    std::fs::write(&file, serde_json::to_string_pretty(&listed)?)
        .with_context(|| format!("{}", file.display()))
}

/// Licences by name and version.
type Licences = BTreeMap<(String, String), String>;

/// Of all crates that a shipped one is built of, tests and build scripts apart.
fn of_crates(root: &Path, shipped: &str, platform: &str) -> Result<Licences> {
    let output = Command::new("cargo")
        .args(["metadata", "--format-version", "1", "--locked", "--filter-platform", platform])
        .current_dir(root)
        .output()
        .context("cargo metadata")?;
    if !output.status.success() {
        bail!("cargo metadata: {}", String::from_utf8_lossy(&output.stderr));
    }
    let metadata: Value = serde_json::from_slice(&output.stdout)?;
    let list = |value: &Value| value.as_array().cloned().unwrap_or_default();
    let text = |value: &Value| value.as_str().unwrap_or_default().to_owned();
    let packages: BTreeMap<String, Value> =
        list(&metadata["packages"]).into_iter().map(|package| (text(&package["id"]), package)).collect();
    let nodes: BTreeMap<String, Value> =
        list(&metadata["resolve"]["nodes"]).into_iter().map(|node| (text(&node["id"]), node)).collect();
    let mut open: Vec<String> =
        packages.iter().filter(|(_, package)| package["name"] == shipped).map(|(id, _)| id.clone()).collect();
    let mut reached = BTreeSet::new();
    while let Some(id) = open.pop() {
        if !reached.insert(id.clone()) {
            continue;
        }
        for dependency in nodes.get(&id).map(|node| list(&node["deps"])).unwrap_or_default() {
            if list(&dependency["dep_kinds"]).iter().any(|kind| kind["kind"].is_null()) {
                open.push(text(&dependency["pkg"]));
            }
        }
    }
    let others =
        reached.iter().filter_map(|id| packages.get(id)).filter(|package| !package["source"].is_null());
    Ok(others
        .map(|package| ((text(&package["name"]), text(&package["version"])), text(&package["license"])))
        .collect())
}

/// Of all packages of the page, those apart that only build and test it.
fn of_npm(web: &Path) -> Result<Licences> {
    let lock: Value = serde_json::from_slice(&std::fs::read(web.join("package-lock.json"))?)?;
    let mut licences = Licences::new();
    for (place, package) in lock["packages"].as_object().into_iter().flatten() {
        let Some((_, name)) = place.rsplit_once("node_modules/") else { continue };
        if package["dev"].as_bool() == Some(true) {
            continue;
        }
        // What is not installed on this kind of machine is not shipped either.
        let Ok(file) = std::fs::read(web.join(place).join("package.json")) else { continue };
        let installed: Value = serde_json::from_slice(&file)?;
        let text = |field: &str| installed[field].as_str().unwrap_or_default().to_owned();
        licences.insert((name.to_owned(), text("version")), text("license"));
    }
    Ok(licences)
}
