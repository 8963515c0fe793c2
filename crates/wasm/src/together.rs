//! What the measuring worker asks of stems that play together: their sum, and what shared paths make of what is sent to them.

use std::borrow::Cow;

use clear_bend_core::Buffer;
use clear_bend_core::bench::BENCH_RATE_HZ;
use clear_bend_core::document::parse_json;
use clear_bend_core::mix::{Beside, Desk, Playing, Send, SendsAs, Strip};
use clear_bend_core::passage::Passage;
use clear_bend_core::path::{Path, PathDocument};
use clear_bend_core::region::Region;
use clear_bend_core::report::{SendsCompared, SumLevels};
use clear_bend_core::signals::{SENT, SourceDocument};
use serde::Deserialize;
use wasm_bindgen::prelude::{JsError, wasm_bindgen};

use crate::json;
use crate::measure::MeasuringBench;

/// A stem as the page describes it.
#[derive(Deserialize)]
pub(crate) struct StemText {
    pub(crate) source: SourceDocument,
    pub(crate) path: PathDocument,
    pub(crate) strip: Strip,
    #[serde(default)]
    sends: Vec<Send>,
}

/// Everything that plays together as the page describes it, without the samples.
#[derive(Deserialize)]
struct DeskText {
    stems: Vec<StemText>,
    work: usize,
    region: Option<Region>,
    sends_as: SendsAs,
}

impl MeasuringBench {
    fn desk<'a>(&'a self, text: &'a DeskText) -> Result<Desk<'a>, JsError> {
        let playing = |stem: &'a StemText| {
            let source = if stem.source.kind == SENT {
                None
            } else {
                Some(Cow::Borrowed(self.shelved(&json(&stem.source)?)?.as_ref()))
            };
            let path = self.sounded(Path::from_document(&stem.path)?);
            Ok::<_, JsError>(Playing { source, path, strip: stem.strip, sends: &stem.sends })
        };
        Ok(Desk {
            stems: text.stems.iter().map(playing).collect::<Result<_, _>>()?,
            work: text.work,
            play: self.passage.play,
            region: text.region,
            sends_as: text.sends_as,
            rate_hz: BENCH_RATE_HZ,
        })
    }
}

#[wasm_bindgen]
impl MeasuringBench {
    /// Begins to put what stems send to the shared path at work on the bench, with the source of which all is shown: silence for as
    /// long, beside which the sounds of their paths are laid before [`MeasuringBench::choose_sent`].
    ///
    /// # Errors
    /// The sentence of the core's refusal.
    #[wasm_bindgen(js_name = beginSent)]
    pub fn begin_sent(&mut self, desk_json: &str, shown_json: &str) -> Result<(), JsError> {
        let text: DeskText = parse_json(desk_json)?;
        let frames = self.desk(&text)?.frames();
        let silence = Buffer::new(BENCH_RATE_HZ, vec![vec![0.0; frames]; 2])?;
        self.put(shown_json, text.region, Passage::played(silence, self.passage.play))?;
        Ok(())
    }

    /// Puts what stems send to the shared path at work on the bench and reads everything off it.
    ///
    /// # Errors
    /// The sentence of the core's refusal.
    #[wasm_bindgen(js_name = chooseSent)]
    pub fn choose_sent(&mut self, desk_json: &str) -> Result<(), JsError> {
        let text: DeskText = parse_json(desk_json)?;
        let sent = self.desk(&text)?.sent_to(text.work);
        self.passage = Passage::played(sent, self.passage.play);
        self.passage.is_sent = true;
        Ok(())
    }

    /// The sum of all that plays beside the stem at work: all samples of the left, then of the right.
    ///
    /// # Errors
    /// The sentence of the core's refusal.
    pub fn backing(&mut self, desk_json: &str) -> Result<Vec<f32>, JsError> {
        let text: DeskText = parse_json(desk_json)?;
        let beside = self.desk(&text)?.beside();
        Ok(self.beside.insert(beside).backing.channels().concat())
    }

    /// The places of the shared paths to which the stem at work sends.
    #[wasm_bindgen(js_name = feedPlaces)]
    pub fn feed_places(&self) -> Vec<usize> {
        self.beside.iter().flat_map(|beside| &beside.feeds).map(|(place, _)| *place).collect()
    }

    /// What the other stems send to one of these, by its place: all samples of the left, then of the right.
    pub fn feed(&self, place: usize) -> Vec<f32> {
        let mut feeds = self.beside.iter().flat_map(|beside| &beside.feeds);
        feeds.find(|(to, _)| *to == place).map(|(_, feed)| feed.channels().concat()).unwrap_or_default()
    }

    /// Levels of the sum of all stems before and after the path, and what goes to shared paths and comes back, as JSON.
    ///
    /// # Errors
    /// The sentence of the core's refusal.
    #[wasm_bindgen(js_name = sumJson)]
    pub fn sum_json(&self, desk_json: &str) -> Result<String, JsError> {
        let text: DeskText = parse_json(desk_json)?;
        let missing = || JsError::new("nothing is rendered yet");
        let beside: &Beside = self.beside.as_ref().ok_or_else(missing)?;
        let after = &self.rendered.as_ref().ok_or_else(missing)?.after;
        json(&SumLevels::of(&self.desk(&text)?, beside, &self.passage.buffer, after))
    }

    /// The sum through shared paths against that through inserts, as JSON: `null` where nothing is sent.
    ///
    /// # Errors
    /// The sentence of the core's refusal.
    #[wasm_bindgen(js_name = comparedJson)]
    pub fn compared_json(&self, desk_json: &str) -> Result<String, JsError> {
        let text: DeskText = parse_json(desk_json)?;
        json(&SendsCompared::of(&self.desk(&text)?))
    }
}
