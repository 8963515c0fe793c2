//! What the measuring worker asks of the passage over frequency: spectra, spectrograms, octaves, resonances.

use clear_bend_bench::BENCH_RATE_HZ;
use clear_bend_effects::modulation::Swing;
use clear_bend_measures::modulation::{self, ModulationSpectrum};
use clear_bend_measures::room::UnderHits;
use clear_bend_measures::{
    self as measures, Analysing, Closeness, Parts, Resolution, Resonances, Spectrum, masking, spectrogram,
};
use clear_bend_playing::mix::{Strip, add};
use clear_bend_playing::path::Path;
use clear_bend_playing::render::{Rendered, render_with};
use clear_bend_sound::Buffer;
use clear_bend_sound::Refusal;
use clear_bend_sound::cast;
use clear_bend_sound::region::cut;
use clear_bend_sound::scope::Scope;
use wasm_bindgen::prelude::{JsError, wasm_bindgen};

use crate::crossing::{given, js, taken, text};
use crate::measure::MeasuringBench;

#[wasm_bindgen]
impl MeasuringBench {
    /// The mean spectrum of the passage before (0) or after (1) the path, on a scope with a resolution,
    /// in columns at equal ratios, dBFS.
    ///
    /// # Errors
    /// Refuses names that are not known.
    #[wasm_bindgen(js_name = spectrumColumns)]
    pub fn spectrum_columns(
        &mut self,
        side: usize,
        how: &js::Analysing,
        from_hz: f64,
        to_hz: f64,
        columns: usize,
    ) -> Result<Vec<f32>, JsError> {
        let wanted: Analysing = taken(how)?;
        let of = |sound: &Buffer| {
            Spectrum::of(sound, wanted.scope, wanted.resolution).smoothed(wanted.smooth_octaves)
        };
        if side == 1 {
            let after = self.rendered.as_ref().map(|rendered| of(&rendered.after));
            return Ok(after.map(|s| s.columns_dbfs(from_hz, to_hz, columns)).unwrap_or_default());
        }
        // The passage stays while the path moves.
        let known = self.spectrum.take().filter(|(how, _)| *how == wanted);
        let (how, spectrum) = known.unwrap_or_else(|| (wanted, of(&self.passage.buffer)));
        let shown = spectrum.columns_dbfs(from_hz, to_hz, columns);
        self.spectrum = Some((how, spectrum));
        Ok(shown)
    }

    /// The mean spectrum of the reference with a gain in dB, as above; nothing where there is none.
    ///
    /// # Errors
    /// Refuses names that are not known.
    #[wasm_bindgen(js_name = referenceSpectrum)]
    pub fn reference_spectrum(
        &self,
        how: &js::Analysing,
        gain_db: f64,
        from_hz: f64,
        to_hz: f64,
        columns: usize,
    ) -> Result<Vec<f32>, JsError> {
        let wanted: Analysing = taken(how)?;
        let Some(reference) = &self.reference else { return Ok(Vec::new()) };
        let spectrum =
            Spectrum::of(reference, wanted.scope, wanted.resolution).smoothed(wanted.smooth_octaves);
        let levels = spectrum.columns_dbfs(from_hz, to_hz, columns);
        Ok(levels.into_iter().map(|db| db + cast::sample(gain_db)).collect())
    }

    /// How much of the passage a spectrogram in so many columns shows, and how closely: so that the movement of a stage is
    /// seen as it is.
    ///
    /// # Errors
    /// Refuses a resolution that is not known.
    #[wasm_bindgen(js_name = closeness)]
    pub fn closeness(
        &self,
        how: &js::Analysing,
        stage: usize,
        columns: usize,
    ) -> Result<js::Closeness, JsError> {
        given(&self.how_closely(taken(how)?.resolution, stage, columns))
    }

    /// Levels over time and frequency before (0) or after (1), in columns of rows from the lowest to the highest frequency (Hz), dBFS,
    /// as closely as the movement of a stage wants.
    ///
    /// # Errors
    /// Refuses a scope or a resolution that is not known.
    pub fn spectrogram(
        &self,
        side: usize,
        how: &js::Analysing,
        stage: usize,
        columns: usize,
        rows: usize,
        range_hz: &[f64],
    ) -> Result<Vec<f32>, JsError> {
        let &[from_hz, to_hz] = range_hz else { return Err(JsError::new("two frequencies make a range")) };
        let Analysing { scope, resolution, .. } = taken(how)?;
        let after = self.rendered.as_ref().map_or(&self.passage.buffer, |rendered| &rendered.after);
        let sound = if side == 0 { &self.passage.buffer } else { after };
        let closeness = self.how_closely(resolution, stage, columns);
        Ok(spectrogram(sound, scope, closeness, (columns, rows), (from_hz, to_hz)))
    }

    fn how_closely(&self, resolution: Resolution, stage: usize, columns: usize) -> Closeness {
        let swing = self.swing(stage).filter(|swing| swing.held.is_none());
        let sound = &self.passage.buffer;
        Closeness::of(
            resolution,
            (sound.seconds(), sound.rate_hz()),
            columns,
            swing.map(|swing| swing.rate_hz),
        )
    }

    fn swing(&self, stage: usize) -> Option<Swing> {
        let stage = self.path.stages.get(stage)?;
        stage.effect.swing(&stage.values)
    }

    /// The modulation spectrum of the passage before and after, in the octave around a frequency (Hz; 0 for all of them), with the
    /// rate of a stage marked.
    ///
    /// # Errors
    /// Says so when nothing is rendered yet.
    #[wasm_bindgen(js_name = modulationSpectrum)]
    pub fn modulation_spectrum(&self, stage: usize, band_hz: f64) -> Result<js::ModulationSpectrum, JsError> {
        let band_hz = Some(band_hz).filter(|hz| *hz > 0.0);
        given(&ModulationSpectrum::of(&self.passage.buffer, &self.after()?.after, band_hz, self.swing(stage)))
    }

    /// A few cycles of the wave before and after at so many places of the passage, of so many points each.
    ///
    /// # Errors
    /// Says so when nothing is rendered yet.
    #[wasm_bindgen(js_name = waveLooks)]
    pub fn wave_looks(&self, looks: usize, points: usize) -> Result<js::WaveLooks, JsError> {
        given(&modulation::wave_looks(&self.passage.buffer, &self.after()?.after, looks, points))
    }

    fn after(&self) -> Result<&Rendered, JsError> {
        let rendered = self.rendered.as_ref().ok_or_else(|| JsError::new("nothing is rendered yet"))?;
        Ok(rendered)
    }

    /// Where the reverb of a stage is heard beside the sound that makes it; null where the stage is no room.
    ///
    /// # Errors
    /// None in practice.
    #[wasm_bindgen(js_name = underHits)]
    pub fn under_hits(&self, stage: usize) -> Result<js::MaybeUnderHits, JsError> {
        let room = self.path.stages.get(stage).is_some_and(|stage| stage.effect.rings());
        given(
            &room
                .then(|| UnderHits::of(&self.path, stage, &self.passage.buffer, self.passage.play))
                .flatten(),
        )
    }

    /// The resonances of the passage before the path.
    ///
    /// # Errors
    /// None in practice.
    #[wasm_bindgen(js_name = resonances)]
    pub fn resonances(&self) -> Result<js::Resonances, JsError> {
        given(&Resonances::of(&self.passage.buffer))
    }

    /// Levels, width and correlation in octave bands (1 per octave) or thirds (3), before and after.
    ///
    /// # Errors
    /// Says so when nothing is rendered yet.
    #[wasm_bindgen(js_name = bandLevels)]
    pub fn band_levels(&self, per_octave: usize) -> Result<js::BandLevels, JsError> {
        let rendered = self.rendered.as_ref().ok_or_else(|| JsError::new("nothing is rendered yet"))?;
        given(
            &[&self.passage.buffer, &rendered.after]
                .map(|sound| measures::band_levels(sound, Scope::Stereo, per_octave)),
        )
    }

    /// This part (in its strip, JSON) and another stem as they play together: their spectra after their paths in
    /// columns at equal ratios, and where they hide each other before and after.
    ///
    /// # Errors
    /// The sentence of the core's refusal.
    #[wasm_bindgen(js_name = parts)]
    pub fn parts(
        &mut self,
        strip: &js::Strip,
        other: &js::Stem,
        from_hz: f64,
        to_hz: f64,
        columns: usize,
    ) -> Result<js::Parts, JsError> {
        let (frames, play) = (self.passage.buffer.frames(), self.passage.play);
        let placed = |sound: &Buffer, strip: &Strip| {
            let mut placed = Buffer::new(BENCH_RATE_HZ, vec![vec![0.0; frames]; 2])?;
            add(&mut placed, sound, strip.gains());
            placed.resize(frames);
            Ok::<_, Refusal>(placed)
        };
        // The other part stays while this one's path moves.
        let written = text(other);
        let known = self.other.take().filter(|(known, _)| *known == written);
        let (written, theirs) = match known {
            Some(known) => known,
            None => {
                let stem = taken(other)?;
                let source = cut(&*self.at_hand(&stem.source)?, self.region).into_stereo();
                let path = self.sounded(Path::from_document(&stem.path)?);
                let after = render_with(&path, &source, play, |_| {}).after;
                (written, [placed(&source, &stem.strip)?, placed(&after, &stem.strip)?])
            }
        };
        let strip = taken(strip)?;
        let after = self.rendered.as_ref().map_or(&self.passage.buffer, |rendered| &rendered.after);
        let before = placed(&self.passage.buffer, &strip)?;
        let after = placed(after, &strip)?;
        let spectrum = |sound: &Buffer| {
            Spectrum::of(sound, Scope::Stereo, Resolution::Medium).columns_dbfs(from_hz, to_hz, columns)
        };
        let answer = Parts {
            this_dbfs: spectrum(&after),
            other_dbfs: spectrum(&theirs[1]),
            before: masking(&before, &theirs[0]),
            after: masking(&after, &theirs[1]),
        };
        self.other = Some((written, theirs));
        given(&answer)
    }
}
