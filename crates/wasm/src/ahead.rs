//! Responses that are made before anybody wants them, so that who goes through them hears each at once.

use std::rc::Rc;

use clear_bend_core::bench::BENCH_RATE_HZ;
use clear_bend_core::catalogue::Values;
use clear_bend_core::signals::{Source, SourceDocument, shipped_responses};
use wasm_bindgen::prelude::{JsError, wasm_bindgen};

use crate::measure::{MeasuringBench, written_out};

#[wasm_bindgen]
impl MeasuringBench {
    /// Makes one of the shipped responses that are not at hand, and keeps it; says whether there was one.
    ///
    /// # Errors
    /// None in practice.
    #[wasm_bindgen(js_name = makeAhead)]
    pub fn make_ahead(&mut self) -> Result<bool, JsError> {
        for kind in shipped_responses() {
            let source = Source::from_document(&SourceDocument::of_kind(kind.id, Values::default()))?;
            let name = written_out(&source);
            if self.ahead.contains(&name) {
                continue;
            }
            if !self.shelf.contains_key(&name) {
                self.shelf.insert(name.clone(), Rc::new(source.render(BENCH_RATE_HZ, 2)?));
            }
            self.ahead.insert(name);
            return Ok(true);
        }
        Ok(false)
    }
}
