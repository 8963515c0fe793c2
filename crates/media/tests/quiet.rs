//! What a reader underneath breaks at is nobody's panic: nothing is written of it, and what is ours still is.
#![allow(missing_docs, clippy::unwrap_used, reason = "a test stops on the first surprise")]

use std::panic::{catch_unwind, set_hook};
use std::sync::atomic::{AtomicUsize, Ordering};

use clear_bend_media::read_sound;

static TOLD: AtomicUsize = AtomicUsize::new(0);

#[test]
fn a_reader_that_panics_says_nothing() {
    set_hook(Box::new(|_| {
        TOLD.fetch_add(1, Ordering::SeqCst);
    }));
    let damaged = include_bytes!("data/damaged.ogg");
    assert!(read_sound(damaged).unwrap_err().to_string().contains("damaged"));
    assert_eq!(TOLD.load(Ordering::SeqCst), 0);
    assert!(catch_unwind(|| assert!(read_sound(damaged).is_ok())).is_err());
    assert_eq!(TOLD.load(Ordering::SeqCst), 1, "a panic of our own is told, also after a reader's");
}
