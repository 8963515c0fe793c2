//! A bench as sound files: before, after, difference, and the sum of all stems.

use std::time::Instant;

use actix_web::http::header::{ContentDisposition, DispositionParam, DispositionType};
use actix_web::web::{self, Data, Payload, ServiceConfig};
use actix_web::{HttpRequest, HttpResponse};
use clear_bend_bench::origin::{Origin, Sounds, desk};
use clear_bend_bench::{BENCH_RATE_HZ, BenchDocument, CheckedStem};
use clear_bend_effects::Setup;
use clear_bend_measures::export::{Part, export};
use clear_bend_media::Format;
use clear_bend_playing::path::{Chain, Path};
use clear_bend_playing::render::LONGEST_TAIL_S;
use clear_bend_signals::{Source, SplitMix64};
use clear_bend_sound::Buffer;
use clear_bend_sound::cast;
use clear_bend_sound::region::cut;
use clear_bend_store::Store;
use serde::{Deserialize, Serialize};

use super::bodies::{handed_out, on_disk, waiting};
use super::work::{Wanted, in_turn};
use super::{ApiError, tracks};

/// Frames in a block of that.
const BLOCK: usize = 512;

pub fn routes(config: &mut ServiceConfig) {
    config.service(web::resource("/exports").post(sound_file));
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct Asked {
    document: serde_json::Value,
    part: What,
    format: String,
}

/// What is handed out: something of the stem at work, or the sum of all with what comes back from shared paths.
#[derive(Clone, Copy, PartialEq, Deserialize, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS), ts(rename = "ExportPart"))]
#[serde(rename_all = "kebab-case")]
pub(super) enum What {
    Before,
    After,
    Matched,
    Difference,
    Sum,
}

impl What {
    /// The part of the stem at work; none for the sum.
    fn of_stem(self) -> Option<Part> {
        match self {
            Self::Before => Some(Part::Before),
            Self::After => Some(Part::After),
            Self::Matched => Some(Part::Matched),
            Self::Difference => Some(Part::Difference),
            Self::Sum => None,
        }
    }
}

/// An export may take so long, s.
const MOST_S: f64 = 180.0;
/// What it will take is told from so much of it, s of sound.
const TRIED_S: f64 = 0.25;

/// Renders the stem at work over the loop region and answers with a file.
async fn sound_file(
    store: Data<Store>,
    request: HttpRequest,
    body: Payload,
) -> Result<HttpResponse, ApiError> {
    let asked = waiting(&request, body).await?;
    let (file, part, format) = in_turn(&request, move |wanted| {
        let Asked { document, part, format } = asked.read()?;
        let format = Format::named(&format)?;
        let bench = BenchDocument::from_value(document).map_err(|e| e.within("document"))?;
        let stems = bench.check()?;
        let sound = |source: &Source| {
            wanted.go_on();
            samples(&store, source)
        };
        let sound = rendered(&bench, &stems, part, sound, wanted)?;
        wanted.go_on();
        Ok((on_disk(&format.write(&sound)?)?, part, format))
    })
    .await?;
    let part =
        serde_json::to_value(part).ok().and_then(|p| p.as_str().map(str::to_owned)).unwrap_or_default();
    let name = format!("clear-bend-{part}.{}", format.extension());
    let disposition = ContentDisposition {
        disposition: DispositionType::Attachment,
        parameters: vec![DispositionParam::Filename(name)],
    };
    Ok(HttpResponse::Ok()
        .insert_header(disposition)
        .content_type("application/octet-stream")
        .body(handed_out(&request, file)?))
}

/// The samples of what is asked for.
fn rendered(
    bench: &BenchDocument,
    stems: &[CheckedStem],
    what: What,
    mut sound: impl FnMut(&Source) -> Result<Buffer, ApiError>,
    wanted: &Wanted,
) -> Result<Buffer, ApiError> {
    let stem = &stems[bench.work];
    let Some(part) = what.of_stem().filter(|_| !stem.is_shared()) else {
        let desk = desk(bench, stems, sound)?;
        let passages = desk.stems.iter().map(|playing| (&playing.path, desk.frames()));
        check_time(passages)?;
        wanted.go_on();
        return Ok(match what.of_stem() {
            Some(part) => {
                let sent = desk.sent_to(bench.work);
                wanted.go_on();
                let path = &desk.stems[bench.work].path;
                export(part, &sent, path, bench.play, bench.listening.level_match, |_| wanted.go_on())
            }
            None => desk.sum(&desk.beside(), &desk.at_work()).0,
        });
    };
    let before = cut(&sound(&stem.source)?, bench.region).into_stereo();
    let mut sounds = Sounds { bench, stems, frames: before.frames(), sound };
    let path = sounds.of(stem.path.clone())?;
    if part != Part::Before {
        // Stems that drive others after their paths are run as well.
        let keys = path.stages.iter().flat_map(|stage| stage.sounds.iter().flatten());
        let driving = keys.filter_map(|key| Origin::of(&key.source, stems).path).collect::<Vec<_>>();
        check_time(driving.iter().chain([&path]).map(|path| (path, before.frames())))?;
    }
    Ok(export(part, &before, &path, bench.play, bench.listening.level_match, |_| wanted.go_on()))
}

/// Refuses paths that would take too long over so many frames each.
fn check_time<'a>(passages: impl Iterator<Item = (&'a Path, usize)>) -> Result<(), ApiError> {
    let estimate_s = passages.map(|(path, frames)| estimate_s(path, frames)).sum();
    if estimate_s > MOST_S { Err(ApiError::too_long(estimate_s, MOST_S)) } else { Ok(()) }
}

/// How long a path will take over so many frames and all that may come after them, from how long it takes over a short noise, s.
fn estimate_s(path: &Path, frames: usize) -> f64 {
    let rate_hz = BENCH_RATE_HZ;
    let mut random = SplitMix64::new(1, 0);
    let mut noise =
        || (0..cast::frames(TRIED_S, rate_hz)).map(|_| cast::sample(0.1 * random.bipolar())).collect();
    let Ok(mut tried) = Buffer::new(rate_hz, vec![noise(), noise()]) else { return 0.0 };
    let start = Instant::now();
    let mut chain = Chain::new(path, Setup { rate_hz, max_block: BLOCK });
    let mut at = 0;
    tried.for_each_block(BLOCK, |io| {
        let from = at;
        at += io.first().map_or(0, |channel| channel.len());
        chain.process(io, from);
    });
    let share = start.elapsed().as_secs_f64() / TRIED_S;
    share * (cast::real(frames) / f64::from(rate_hz) + LONGEST_TAIL_S)
}

/// The samples of any source.
fn samples(store: &Store, source: &Source) -> Result<Buffer, ApiError> {
    match source {
        Source::Track { hash, .. } => tracks::load(store, hash),
        made => Ok(made.render(BENCH_RATE_HZ, 2)?),
    }
}
