//! The core as a WebAssembly module.
//!
//! The ordinary way needs the toolchain's own `wasm32-unknown-unknown` library. Where that is not installed,
//! the compiler and library sources of Debian's packages (rustc-web, rust-web-src, libstd-rust-web-dev) do
//! the same.

use std::path::{Path, PathBuf};
use std::process::Command;

use anyhow::{Context, Result, bail};
use wasm_bindgen_cli_support::Bindgen;

use crate::{root, run};

const TARGET: &str = "wasm32-unknown-unknown";

/// Compiles the module and writes it with its glue to `web/src/generated/wasm`.
pub fn build() -> Result<()> {
    let root = root();
    // A target folder of its own: the two compilers may differ.
    let target_dir = root.join("target/wasm");
    let mut cargo = Command::new("cargo");
    cargo
        .args(["build", "--package", "clear-bend-wasm", "--profile", "wasm", "--locked", "--target", TARGET])
        .arg("--target-dir")
        .arg(&target_dir)
        .env("CARGO_TARGET_WASM32_UNKNOWN_UNKNOWN_RUSTFLAGS", "-Ctarget-feature=+simd128")
        .current_dir(&root);
    if !toolchain_library()?.exists() {
        with_debian_compiler(&mut cargo)?;
    }
    run(&mut cargo)?;
    let module = target_dir.join(TARGET).join("wasm/clear_bend_wasm.wasm");
    let mut bindgen = Bindgen::new();
    bindgen.input_path(module).remove_name_section(true).web(true)?.typescript(true);
    bindgen.generate(root.join("web/src/generated/wasm"))
}

/// Where the toolchain keeps its library for the target, if it has one.
fn toolchain_library() -> Result<PathBuf> {
    Ok(sysroot("rustc")?.join("lib/rustlib").join(TARGET).join("lib"))
}

fn sysroot(rustc: &str) -> Result<PathBuf> {
    let output =
        Command::new(rustc).args(["--print", "sysroot"]).output().context("rustc cannot be started")?;
    Ok(PathBuf::from(String::from_utf8(output.stdout)?.trim()))
}

/// Lets cargo build the standard library with Debian's compiler and link with the toolchain's own linker.
fn with_debian_compiler(cargo: &mut Command) -> Result<()> {
    let rustc = Path::new("/usr/bin/rustc");
    if !rustc.exists() {
        bail!(
            "neither the toolchain's {TARGET} nor Debian's rustc-web is installed; scripts/setup.sh installs it"
        );
    }
    let linkers = [sysroot("rustc")?, sysroot("/usr/bin/rustc")?];
    let linker = linkers
        .iter()
        .map(|sysroot| sysroot.join("lib/rustlib/x86_64-unknown-linux-gnu/bin/rust-lld"))
        .find(|linker| linker.exists())
        .or_else(|| Some(PathBuf::from("/usr/bin/wasm-ld")).filter(|linker| linker.exists()))
        .context("no linker for WebAssembly: neither rust-lld in the toolchain nor Debian's lld")?;
    cargo
        .args(["-Z", "build-std=std,panic_abort"])
        .env("RUSTC", rustc)
        .env("RUSTC_BOOTSTRAP", "1")
        .env("CARGO_TARGET_WASM32_UNKNOWN_UNKNOWN_LINKER", linker);
    Ok(())
}
