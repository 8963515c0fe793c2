//! Designed responses: what the page draws while a hand moves their curves.

use std::cell::RefCell;

use clear_bend_bench::BENCH_RATE_HZ;
use clear_bend_explaining::report::{DesignView, design_of};
use clear_bend_signals::design::Maker;
use wasm_bindgen::prelude::{JsError, wasm_bindgen};

use crate::crossing::{given, js, taken};

thread_local! {
    static MAKER: RefCell<Maker> = RefCell::default();
}

/// Does something with the maker of designed responses, which knows the last one.
pub fn with_maker<T>(f: impl FnOnce(&mut Maker) -> T) -> T {
    MAKER.with_borrow_mut(f)
}

/// What is seen of a designed response, its wave in so many columns.
///
/// # Errors
/// The sentence of the core's refusal.
#[wasm_bindgen(js_name = designView)]
pub fn design_view(design: &js::Source, columns: usize) -> Result<js::DesignView, JsError> {
    let design = design_of(&taken(design)?)?;
    given(&with_maker(|maker| DesignView::by(maker, &design, BENCH_RATE_HZ, columns))?)
}
