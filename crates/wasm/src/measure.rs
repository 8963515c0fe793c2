//! What the measuring worker asks of the core: sources, rendered passages, reports.

use std::collections::HashMap;
use std::rc::Rc;
use std::sync::Arc;

use clear_bend_bench::BENCH_RATE_HZ;
use clear_bend_bench::origin::laid_on_bench;
use clear_bend_catalogue::SoundSlot;
use clear_bend_effects as effects;
use clear_bend_explaining::bend::{BendOf, BendPoint};
use clear_bend_explaining::fan::FanOf;
use clear_bend_explaining::report::{Looking, Measured, ReferenceLevels, Report, Seen, read};
use clear_bend_measures::passage::Passage;
use clear_bend_measures::{
    Analysing, Histogram, LevelMatches, Levels, Overview, PlainLevels, Spectrum, deepest, find_onsets,
};
use clear_bend_playing::mix::Beside;
use clear_bend_playing::path::Path;
use clear_bend_playing::path::Play;
use clear_bend_playing::render::{Rendered, Underway};
use clear_bend_signals::{self as signals, LONGEST_RESPONSE_S, Source, SourceDocument};
use clear_bend_sound::Buffer;
use clear_bend_sound::Refusal;
use clear_bend_sound::region::{Region, cut};
use wasm_bindgen::prelude::{JsError, wasm_bindgen};

use crate::crossing::{given, js, taken};
use crate::design::with_maker;

/// So many sources of the length of a response are kept though nothing needs them now.
const KEPT_SHORT: usize = 12;

/// The sources that are at hand, the passage at work, and what the latest path made of it.
#[wasm_bindgen]
pub struct MeasuringBench {
    /// Samples by what makes them; see [`name_of`].
    pub(crate) shelf: HashMap<String, Rc<Buffer>>,
    /// The names of the shipped responses that are kept, wanted or not, in their order.
    pub(crate) ahead: Vec<String>,
    /// Whether a response has been laid beside the passage.
    pub(crate) has_response: bool,
    /// The names of those that have been wanted, the last ones last.
    wanted: Vec<String>,
    /// The sounds that stages take with the passage, as they are laid, by [`sound_name`].
    sounds: HashMap<String, Arc<Buffer>>,
    /// A track that is coming in.
    incoming: Vec<Vec<f32>>,
    source: Rc<Buffer>,
    pub(crate) region: Option<Region>,
    pub(crate) passage: Passage,
    pub(crate) path: Path,
    pub(crate) run: Looking,
    /// What has been measured of the stages alone.
    measured: Measured,
    pub(crate) rendered: Option<Rendered>,
    /// The latest path while it is being run.
    underway: Option<Underway>,
    /// What plays beside the stem at work.
    pub(crate) beside: Option<Beside>,
    /// The spectrum of the passage before, and how it was taken.
    pub(crate) spectrum: Option<(Analysing, Spectrum)>,
    /// The other part that this one is held against, before and after its path, and what it was made of.
    pub(crate) other: Option<(String, [Buffer; 2])>,
    pub(crate) reference: Option<Buffer>,
    /// The bends of the latest path as far as they are measured, by stage and parameter.
    pub(crate) bends: HashMap<(usize, String), Vec<Option<BendPoint>>>,
    pub(crate) fan: Option<(FanOf, Vec<f64>)>,
    pub(crate) fan_rendered: Option<Rendered>,
}

#[wasm_bindgen]
impl MeasuringBench {
    /// An empty bench.
    ///
    /// # Errors
    /// None in practice.
    #[wasm_bindgen(constructor)]
    pub fn new() -> Result<MeasuringBench, JsError> {
        let silence = Buffer::new(BENCH_RATE_HZ, vec![Vec::new(); 2])?;
        Ok(Self {
            shelf: HashMap::new(),
            ahead: Vec::new(),
            has_response: false,
            wanted: Vec::new(),
            sounds: HashMap::new(),
            incoming: Vec::new(),
            source: Rc::new(silence.clone()),
            region: None,
            passage: Passage::played(silence, Play::Round),
            path: Path::default(),
            run: Looking::default(),
            measured: Measured::default(),
            rendered: None,
            underway: None,
            beside: None,
            spectrum: None,
            other: None,
            reference: None,
            bends: HashMap::new(),
            fan: None,
            fan_rendered: None,
        })
    }

    /// Whether the samples of a source are at hand.
    ///
    /// # Errors
    /// The sentence of the core's refusal.
    pub fn has(&self, source: &js::Source) -> Result<bool, JsError> {
        Ok(self.shelf.contains_key(&name_of(&taken(source)?)))
    }

    /// Makes the samples of a signal.
    ///
    /// # Errors
    /// The sentence of the core's refusal.
    pub fn make(&mut self, source: &js::Source) -> Result<(), JsError> {
        let source = Source::from_document(&taken(source)?)?;
        let sound = with_maker(|maker| source.render_by(maker, BENCH_RATE_HZ, 2))?;
        self.shelf.insert(written_out(&source), Rc::new(sound));
        Ok(())
    }

    /// Begins to take in the samples of a track.
    #[wasm_bindgen(js_name = beginTrack)]
    pub fn begin_track(&mut self, frames: usize, channels: usize) {
        self.incoming = vec![Vec::with_capacity(frames); channels];
    }

    /// Takes in a piece: all its samples of the first channel, then all of the second.
    pub fn push(&mut self, piece: &[f32]) {
        let each = piece.len() / self.incoming.len().max(1);
        for (channel, samples) in self.incoming.iter_mut().zip(piece.chunks(each.max(1))) {
            channel.extend_from_slice(samples);
        }
    }

    /// Ends a track that has come in, and says at which rate it was recorded, Hz, if not at that of the bench.
    ///
    /// # Errors
    /// The sentence of the core's refusal.
    #[wasm_bindgen(js_name = endTrack)]
    pub fn end_track(&mut self, source: &js::Source, recorded_hz: Option<u32>) -> Result<(), JsError> {
        let sound = Buffer::new(BENCH_RATE_HZ, std::mem::take(&mut self.incoming))?;
        let sound = sound.recorded_at(recorded_hz.unwrap_or(BENCH_RATE_HZ));
        self.shelf.insert(name_of(&taken(source)?), Rc::new(sound));
        Ok(())
    }

    /// Lets go of all sources but these, of those that were made ahead, and of the short ones that were wanted last: they may
    /// come back.
    ///
    /// # Errors
    /// The sentence of the core's refusal.
    #[wasm_bindgen(js_name = keepOnly)]
    pub fn keep_only(&mut self, sources: &js::Sources) -> Result<(), JsError> {
        let wanted: Vec<String> = taken(sources)?.iter().map(name_of).collect();
        self.wanted.retain(|name| !wanted.contains(name));
        self.wanted.extend(wanted.iter().cloned());
        let short =
            |name: &&String| self.shelf.get(*name).is_some_and(|sound| sound.seconds() <= LONGEST_RESPONSE_S);
        let last: Vec<String> = self.wanted.iter().rev().filter(short).take(KEPT_SHORT).cloned().collect();
        self.wanted.retain(|name| wanted.contains(name) || last.contains(name));
        let Self { ahead, shelf, .. } = self;
        shelf.retain(|name, _| wanted.contains(name) || last.contains(name) || ahead.contains(name));
        Ok(())
    }

    /// Puts a region (none for all) of a source on the bench and reads everything off it.
    ///
    /// # Errors
    /// The sentence of the core's refusal.
    pub fn choose(&mut self, source: &js::Source, region: &js::MaybeRegion) -> Result<(), JsError> {
        let (document, region) = (taken(source)?, taken(region)?);
        let source = self.shelved(&document)?;
        let mut passage = Passage::played(cut(source, region).into_stereo(), self.passage.play);
        let signal = signals::find(&document.kind).ok();
        passage.material = signal.map(|signal| signal.material).unwrap_or_default();
        Ok(self.put(&document, region, passage)?)
    }

    /// Chooses how passages are played: `"round"` or `"once"`.
    ///
    /// # Errors
    /// Refuses anything else.
    pub fn play(&mut self, play: &js::Play) -> Result<(), JsError> {
        let play = taken(play)?;
        if play != self.passage.play {
            self.passage.play = play;
            self.forget();
        }
        Ok(())
    }

    /// Puts all that has come in on the bench as the passage.
    ///
    /// # Errors
    /// The sentence of the core's refusal.
    #[wasm_bindgen(js_name = putPassage)]
    pub fn put_passage(&mut self) -> Result<(), JsError> {
        let sound = Buffer::new(BENCH_RATE_HZ, std::mem::take(&mut self.incoming))?.into_stereo();
        self.source = Rc::new(sound.clone());
        self.place(None, Passage::played(sound, self.passage.play));
        Ok(())
    }

    /// Lets go of all that has been made of the passage.
    fn forget(&mut self) {
        self.run.forget();
        (self.rendered, self.underway) = (None, None);
        self.bends.clear();
        self.fan = None;
        self.beside = None;
        self.spectrum = None;
        self.other = None;
    }

    pub(crate) fn at_hand(&self, source: &SourceDocument) -> Result<Rc<Buffer>, Refusal> {
        self.shelved(source).cloned()
    }

    pub(crate) fn shelved(&self, source: &SourceDocument) -> Result<&Rc<Buffer>, Refusal> {
        let name = name_of(source);
        self.shelf.get(&name).ok_or_else(|| Refusal::new("source", name, "a source that is at hand"))
    }

    /// Puts a passage on the bench, with the source of which all is shown.
    pub(crate) fn put(
        &mut self,
        shown: &SourceDocument,
        region: Option<Region>,
        passage: Passage,
    ) -> Result<(), Refusal> {
        self.source = self.at_hand(shown)?;
        self.place(region, passage);
        Ok(())
    }

    fn place(&mut self, region: Option<Region>, passage: Passage) {
        (self.region, self.passage) = (region, passage);
        self.sounds.clear();
        self.has_response = false;
        self.forget();
    }

    /// A path with the samples of its sounds, as far as they are at hand.
    pub(crate) fn sounded(&self, path: Path) -> Path {
        path.with_sounds(|effect, slot, source| {
            self.sounds.get(&sound_name(effect.id, slot.id, source)).cloned()
        })
    }

    /// Lays a sound of a slot of an effect beside the passage, and says how many channels it has there. `origin` is the
    /// source that is at hand for it: itself or, for a stem, the stem's own; that runs through a path first, if there is one,
    /// whose sounds have been laid.
    ///
    /// # Errors
    /// The sentence of the core's refusal.
    #[wasm_bindgen(js_name = laySound)]
    pub fn lay_sound(
        &mut self,
        effect: &str,
        slot: &str,
        sound: &js::Source,
        origin: &js::Source,
        path: Option<js::Path>,
    ) -> Result<usize, JsError> {
        let room = slot_of(effect, slot)?;
        let origin = self.at_hand(&taken(origin)?)?;
        let path = path.map(|path| Ok::<_, Refusal>(self.sounded(path_of(&path)?.taking_stems_before())));
        let (play, frames) = (self.passage.play, self.passage.buffer.frames());
        let laid = laid_on_bench(room, &origin, path.transpose()?.as_ref(), self.region, play, frames);
        let channels = laid.channels().len();
        self.has_response |= room.whole;
        self.keep_sound(effect, slot, sound, laid)?;
        Ok(channels)
    }

    /// The samples of a channel of a sound that has been laid.
    ///
    /// # Errors
    /// The sentence of the core's refusal.
    #[wasm_bindgen(js_name = soundChannel)]
    pub fn sound_channel(
        &self,
        effect: &str,
        slot: &str,
        sound: &js::Source,
        channel: usize,
    ) -> Result<Vec<f32>, JsError> {
        let source = Source::from_document(&taken(sound)?)?;
        let laid = self.sounds.get(&sound_name(effect, slot, &source));
        Ok(laid.and_then(|laid| laid.channels().get(channel).cloned()).unwrap_or_default())
    }

    /// Takes what has come in as a sound of a slot of an effect, laid as it is.
    ///
    /// # Errors
    /// The sentence of the core's refusal.
    #[wasm_bindgen(js_name = endSound)]
    pub fn end_sound(&mut self, effect: &str, slot: &str, sound: &js::Source) -> Result<(), JsError> {
        let laid = Buffer::new(BENCH_RATE_HZ, std::mem::take(&mut self.incoming))?;
        Ok(self.keep_sound(effect, slot, sound, laid)?)
    }

    fn keep_sound(
        &mut self,
        effect: &str,
        slot: &str,
        sound: &js::Source,
        laid: Buffer,
    ) -> Result<(), Refusal> {
        let source = Source::from_document(&taken(sound)?)?;
        self.sounds.insert(sound_name(effect, slot, &source), Arc::new(laid));
        Ok(())
    }

    /// How much of the time the passage spends at which level, before and after the path.
    ///
    /// # Errors
    /// Says so when nothing is rendered yet.
    #[wasm_bindgen(js_name = histograms)]
    pub fn histograms(&self) -> Result<js::Histograms, JsError> {
        let rendered = self.rendered.as_ref().ok_or_else(|| JsError::new("nothing is rendered yet"))?;
        given(&[Histogram::of(&self.passage.buffer), Histogram::of(&rendered.after)])
    }

    /// How much of the time the passage spends at which level, before any path.
    ///
    /// # Errors
    /// None in practice.
    #[wasm_bindgen(js_name = levels)]
    pub fn levels(&self) -> Result<js::Histogram, JsError> {
        given(&Histogram::of(&self.passage.buffer))
    }

    /// How many bands of a stage have a gain of their own.
    #[wasm_bindgen(js_name = bandCount)]
    pub fn band_count(&self, stage: usize) -> usize {
        self.rendered.as_ref().map_or(0, |rendered| rendered.band_gains_db(stage).count())
    }

    /// Deepest gain of a band of a stage in every column, dB.
    #[wasm_bindgen(js_name = bandColumns)]
    pub fn band_columns(&self, stage: usize, band: usize, columns: usize) -> Vec<f32> {
        let gain = self.rendered.as_ref().and_then(|rendered| rendered.band_gains_db(stage).nth(band));
        gain.map(|gain| deepest(gain, columns)).unwrap_or_default()
    }

    /// Length of the whole source, s.
    #[wasm_bindgen(js_name = sourceSeconds)]
    pub fn source_seconds(&self) -> f64 {
        self.source.seconds()
    }

    /// Where sounds begin in the whole source, s.
    #[wasm_bindgen(js_name = sourceOnsets)]
    pub fn source_onsets(&self) -> Vec<f64> {
        let rate_hz = f64::from(self.source.rate_hz());
        find_onsets(&self.source).into_iter().map(|at| clear_bend_sound::cast::real(at) / rate_hz).collect()
    }

    /// Smallest, then largest sample of every column of the whole source.
    #[wasm_bindgen(js_name = sourceColumns)]
    pub fn source_columns(&self, columns: usize) -> Vec<f32> {
        extremes(&self.source, columns)
    }

    /// Length of the passage, s.
    #[wasm_bindgen(getter)]
    pub fn seconds(&self) -> f64 {
        self.passage.buffer.seconds()
    }

    /// For how long the path is heard after the end of the passage, s.
    #[wasm_bindgen(getter, js_name = tailSeconds)]
    pub fn tail_seconds(&self) -> f64 {
        self.rendered.as_ref().map_or(0.0, |rendered| rendered.tail.seconds())
    }

    /// Takes a path, whose bends may be measured then.
    ///
    /// # Errors
    /// The sentence of the core's refusal.
    pub fn take(&mut self, path: &js::Path) -> Result<(), JsError> {
        let path = self.sounded(path_of(path)?);
        if path != self.path {
            // What a parameter does over its range stays when it is moved itself.
            self.bends.retain(|(stage, param), _| {
                BendOf::new(&self.path, *stage, param).is_ok_and(|bend| bend.is_that_of(&path))
            });
            self.path = path;
            (self.rendered, self.underway) = (None, None);
        }
        Ok(())
    }

    /// Takes a path and runs it over the passage.
    ///
    /// # Errors
    /// The sentence of the core's refusal.
    pub fn render(&mut self, path: &js::Path) -> Result<(), JsError> {
        self.begin(path)?;
        while self.advance() > 0 {}
        Ok(())
    }

    /// Takes a path and begins to run it over the passage; where it has been begun already, that goes on.
    ///
    /// # Errors
    /// The sentence of the core's refusal.
    pub fn begin(&mut self, path: &js::Path) -> Result<(), JsError> {
        self.take(path)?;
        let Self { underway, run, passage, path, rendered, .. } = self;
        if rendered.is_none() {
            underway.get_or_insert_with(|| run.begin(path, &passage.buffer, passage.play));
        }
        Ok(())
    }

    /// Runs one stage more of a path that has been begun; says how many are left. With none left, it has been run.
    pub fn advance(&mut self) -> usize {
        let Some(underway) = &mut self.underway else { return 0 };
        self.run.advance(underway, Some(Seen::of));
        let left = self.run.left(underway);
        if left == 0 {
            self.rendered = self.underway.take().map(|underway| self.run.end(underway));
        }
        left
    }

    /// Samples of a channel of the passage.
    pub fn before(&self, channel: usize) -> Vec<f32> {
        self.passage.buffer.channels().get(channel).cloned().unwrap_or_default()
    }

    /// Smallest, then largest sample of every column of the passage, and of the silence under the tail.
    #[wasm_bindgen(js_name = beforeColumns)]
    pub fn before_columns(&self, columns: usize) -> Vec<f32> {
        let tail = self.rendered.as_ref().map_or(0, |rendered| rendered.tail.frames());
        if tail == 0 {
            return extremes(&self.passage.buffer, columns);
        }
        let mut whole = self.passage.buffer.clone();
        whole.resize(whole.frames() + tail);
        extremes(&whole, columns)
    }

    /// Smallest, then largest sample of every column after the path, with its tail.
    #[wasm_bindgen(js_name = afterColumns)]
    pub fn after_columns(&self, columns: usize) -> Vec<f32> {
        self.rendered.as_ref().map(|r| extremes(&r.with_tail(), columns)).unwrap_or_default()
    }

    /// Smallest, then largest sample of every column of the key of a stage, which is silent under a tail; empty where it has none.
    #[wasm_bindgen(js_name = keyColumns)]
    pub fn key_columns(&self, stage: usize, columns: usize) -> Vec<f32> {
        let Some(stage) = self.path.stages.get(stage) else { return Vec::new() };
        let slots = stage.effect.sounds.iter().zip(&stage.sounds);
        let key =
            slots.filter(|(slot, _)| !slot.whole).find_map(|(_, sound)| sound.as_ref()?.samples.as_ref());
        let Some(key) = key else { return Vec::new() };
        let mut whole = Buffer::clone(key);
        let tail = self.rendered.as_ref().map_or(0, |rendered| rendered.tail.frames());
        whole.resize(self.passage.buffer.frames() + tail);
        extremes(&whole, columns)
    }

    /// Deepest gain of a stage in every column, dB; empty where the stage reports none.
    #[wasm_bindgen(js_name = gainColumns)]
    pub fn gain_columns(&self, stage: usize, columns: usize) -> Vec<f32> {
        self.rendered.as_ref().map(|r| gains(r, stage, columns)).unwrap_or_default()
    }

    /// Everything that is read off before and after.
    ///
    /// # Errors
    /// Says so when nothing has been rendered yet.
    #[wasm_bindgen(js_name = report)]
    pub fn report(&mut self) -> Result<js::Report, JsError> {
        given(&self.reported()?)
    }

    /// The same as a table in CSV.
    ///
    /// # Errors
    /// Says so when nothing has been rendered yet.
    #[wasm_bindgen(js_name = reportCsv)]
    pub fn report_csv(&mut self) -> Result<String, JsError> {
        Ok(self.reported()?.to_csv())
    }

    fn reported(&mut self) -> Result<Report, JsError> {
        while self.advance() > 0 {}
        let rendered = self.rendered.as_ref().ok_or_else(|| JsError::new("nothing is rendered yet"))?;
        Ok(read(&self.path, &self.passage, rendered, &mut self.run, &mut self.measured))
    }

    /// The level matches of another path on this passage.
    ///
    /// # Errors
    /// The sentence of the core's refusal.
    #[wasm_bindgen(js_name = matches)]
    pub fn matches(&self, path: &js::Path) -> Result<js::LevelMatches, JsError> {
        let path = self.sounded(path_of(path)?);
        let after = self.passage.through(&path).after;
        given(&self.passage.matches(&path, &PlainLevels::of(&after)))
    }

    /// Takes a source as the reference: its levels, and the gain that makes it as loud as before.
    ///
    /// # Errors
    /// The sentence of the core's refusal.
    #[wasm_bindgen(js_name = setReference)]
    pub fn set_reference(&mut self, source: &js::Source) -> Result<js::ReferenceLevels, JsError> {
        let sound = cut(&*self.at_hand(&taken(source)?)?, None).into_stereo();
        let levels = Levels::of(&sound);
        let seconds = sound.seconds().min(self.passage.buffer.seconds());
        self.reference = Some(sound);
        let match_gain_db = LevelMatches::between(&(&self.passage.levels).into(), &(&levels).into(), seconds)
            .loudness
            .gain_db;
        given(&ReferenceLevels { levels, match_gain_db })
    }

    /// Smallest, then largest sample of every column of the reference as it is heard, over the length of the passage.
    #[wasm_bindgen(js_name = referenceColumns)]
    pub fn reference_columns(&self, columns: usize, gain_db: f64) -> Vec<f32> {
        let Some(reference) = &self.reference else { return Vec::new() };
        let frames = self.passage.buffer.frames();
        // Under a tail there is no reference.
        let mut shown = reference.slice(0..frames);
        shown.apply_gain_db(gain_db);
        shown.resize(frames);
        extremes(&shown, columns)
    }

    /// Samples of a channel of the reference.
    pub fn reference(&self, channel: usize) -> Vec<f32> {
        self.reference.as_ref().and_then(|r| r.channels().get(channel).cloned()).unwrap_or_default()
    }
}

/// The name under which the samples of a source are found: all that makes it what it is, however the page writes it
/// down (settings in another order, at their defaults or left out). What is no source is its own name.
fn name_of(document: &SourceDocument) -> String {
    Source::from_document(document)
        .map_or_else(|_| serde_json::to_string(document).unwrap_or_default(), |source| written_out(&source))
}

/// The name under which a laid sound is found.
fn sound_name(effect: &str, slot: &str, source: &Source) -> String {
    format!("{effect} {slot} {}", written_out(source))
}

/// A slot of an effect.
fn slot_of(effect: &str, slot: &str) -> Result<&'static SoundSlot, Refusal> {
    let found = effects::find(effect).and_then(|effect| Some(&effect.sounds[effect.slot(slot)?]));
    found.ok_or_else(|| Refusal::new("slot", slot, "a slot of the effect"))
}

/// The path that the page describes.
pub(crate) fn path_of(path: &js::Path) -> Result<Path, Refusal> {
    Path::from_document(&taken(path)?)
}

pub(crate) fn written_out(source: &Source) -> String {
    serde_json::to_string(&source.to_document()).unwrap_or_default()
}

pub(crate) fn extremes(sound: &Buffer, columns: usize) -> Vec<f32> {
    let overview = Overview::of(sound, columns);
    [overview.min, overview.max].concat()
}

pub(crate) fn gains(rendered: &Rendered, stage: usize, columns: usize) -> Vec<f32> {
    rendered.gain_with_tail_db(stage).map(|gain| deepest(gain, columns)).unwrap_or_default()
}
