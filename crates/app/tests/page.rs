//! The unit tests of the page, by its own runner: what they say is shown.
#![allow(missing_docs, clippy::unwrap_used, reason = "a test stops on the first surprise")]

use std::path::Path;
use std::process::Command;

#[test]
fn the_unit_tests_of_the_page_pass() {
    let web = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../web");
    let output = Command::new("npm")
        .args(["test", "--silent"])
        .env("NO_COLOR", "1")
        .current_dir(&web)
        .output()
        .unwrap();
    println!("{}", String::from_utf8_lossy(&output.stdout));
    assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
}
