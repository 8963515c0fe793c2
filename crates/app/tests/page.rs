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

#[test]
fn the_page_knows_the_answers_as_rust_declares_them() {
    let file = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../web/src/api/answers.ts");
    let declared = clear_bend_server::declared_answers();
    if std::env::var_os("CLEAR_BEND_WRITE").is_some() {
        std::fs::write(&file, &declared).unwrap();
    }
    assert_eq!(
        std::fs::read_to_string(&file).unwrap(),
        declared,
        "CLEAR_BEND_WRITE=1 cargo test --test page"
    );
}
