//! What the measuring worker asks of stems that play together: their sum, and what shared paths make of what is sent to them.

use std::borrow::Cow;

use clear_bend_bench::BENCH_RATE_HZ;
use clear_bend_explaining::report::{SendsCompared, SumLevels};
use clear_bend_measures::passage::Passage;
use clear_bend_playing::mix::{Beside, Desk, Playing};
use clear_bend_playing::path::Path;
use clear_bend_signals::SENT;
use clear_bend_sound::Buffer;
use clear_bend_sound::Refusal;
use wasm_bindgen::prelude::{JsError, wasm_bindgen};

use crate::crossing::{given, js, taken};
use crate::measure::MeasuringBench;
use crate::played::{PlayedDesk, PlayedStem};

impl MeasuringBench {
    fn desk<'a>(&'a self, played: &'a PlayedDesk) -> Result<Desk<'a>, Refusal> {
        let playing = |stem: &'a PlayedStem| {
            let source = if stem.source.kind == SENT {
                None
            } else {
                Some(Cow::Borrowed(self.shelved(&stem.source)?.as_ref()))
            };
            let path = self.sounded(Path::from_document(&stem.path)?);
            Ok::<_, Refusal>(Playing { source, path, strip: stem.strip, sends: &stem.sends })
        };
        Ok(Desk {
            stems: played.stems.iter().map(playing).collect::<Result<_, _>>()?,
            work: played.work,
            play: self.passage.play,
            region: played.region,
            sends_as: played.sends_as,
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
    pub fn begin_sent(&mut self, desk: &js::Desk, shown: &js::Source) -> Result<(), JsError> {
        let played = taken(desk)?;
        let frames = self.desk(&played)?.frames();
        let silence = Buffer::new(BENCH_RATE_HZ, vec![vec![0.0; frames]; 2])?;
        self.put(&taken(shown)?, played.region, Passage::played(silence, self.passage.play))?;
        Ok(())
    }

    /// Puts what stems send to the shared path at work on the bench and reads everything off it.
    ///
    /// # Errors
    /// The sentence of the core's refusal.
    #[wasm_bindgen(js_name = chooseSent)]
    pub fn choose_sent(&mut self, desk: &js::Desk) -> Result<(), JsError> {
        let played = taken(desk)?;
        let sent = self.desk(&played)?.sent_to(played.work);
        self.passage = Passage::played(sent, self.passage.play);
        self.passage.is_sent = true;
        Ok(())
    }

    /// The sum of all that plays beside the stem at work: all samples of the left, then of the right.
    ///
    /// # Errors
    /// The sentence of the core's refusal.
    pub fn backing(&mut self, desk: &js::Desk) -> Result<Vec<f32>, JsError> {
        let played = taken(desk)?;
        let beside = self.desk(&played)?.beside();
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

    /// Levels of the sum of all stems before and after the path, and what goes to shared paths and comes back.
    ///
    /// # Errors
    /// The sentence of the core's refusal.
    #[wasm_bindgen(js_name = sum)]
    pub fn sum(&self, desk: &js::Desk) -> Result<js::Sum, JsError> {
        let played = taken(desk)?;
        let missing = || JsError::new("nothing is rendered yet");
        let beside: &Beside = self.beside.as_ref().ok_or_else(missing)?;
        let after = &self.rendered.as_ref().ok_or_else(missing)?.after;
        given(&SumLevels::of(&self.desk(&played)?, beside, &self.passage.buffer, after))
    }

    /// The sum through shared paths against that through inserts,: `null` where nothing is sent.
    ///
    /// # Errors
    /// The sentence of the core's refusal.
    #[wasm_bindgen(js_name = compared)]
    pub fn compared(&self, desk: &js::Desk) -> Result<js::MaybeCompared, JsError> {
        let played = taken(desk)?;
        given(&SendsCompared::of(&self.desk(&played)?))
    }
}
