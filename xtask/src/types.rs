//! TypeScript declarations of everything that crosses from Rust to the browser.

use anyhow::{Context, Result};
use clear_bend_wasm::{contract, crossing};
use ts_rs::Config;

/// Writes one file per type, and with it every type that it mentions, and what the audio thread and the page have agreed on. What an
/// earlier run wrote goes, so that a type which is no longer written is missed at once and not only on a new machine.
pub fn write() -> Result<()> {
    let generated = crate::root().join("web/src/generated");
    let folder = generated.join("types");
    if folder.exists() {
        std::fs::remove_dir_all(&folder).with_context(|| format!("{}", folder.display()))?;
    }
    crossing::export(&Config::new().with_out_dir(folder))?;
    std::fs::write(generated.join("live.ts"), contract::written()).context("web/src/generated/live.ts")?;
    Ok(())
}
