//! Responses that are made before anybody wants them, so that who goes through them hears each at once.

use std::rc::Rc;

use clear_bend_bench::BENCH_RATE_HZ;
use clear_bend_catalogue::Values;
use clear_bend_signals::{Source, SourceDocument, shipped_responses};
use wasm_bindgen::prelude::{JsError, wasm_bindgen};

use crate::measure::{MeasuringBench, written_out};

#[wasm_bindgen]
impl MeasuringBench {
    /// Makes the next of the shipped responses, if it is not at hand, and keeps it; says whether there was one. Who takes no response wants
    /// none.
    ///
    /// # Errors
    /// None in practice.
    #[wasm_bindgen(js_name = makeAhead)]
    pub fn make_ahead(&mut self) -> Result<bool, JsError> {
        if !self.has_response {
            return Ok(false);
        }
        let Some(kind) = shipped_responses().nth(self.ahead.len()) else { return Ok(false) };
        let source = Source::from_document(&SourceDocument::of_kind(kind.id, Values::default()))?;
        let name = written_out(&source);
        if !self.shelf.contains_key(&name) {
            self.shelf.insert(name.clone(), Rc::new(source.render(BENCH_RATE_HZ, 2)?));
        }
        self.ahead.push(name);
        Ok(true)
    }
}
