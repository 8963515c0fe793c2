//! A bench as sound files: before, after, difference.

use std::sync::Arc;
use std::time::Instant;

use actix_web::http::header::{ContentDisposition, ContentEncoding, DispositionParam, DispositionType};
use actix_web::web::{self, Data, ServiceConfig};
use actix_web::{HttpRequest, HttpResponse};
use clear_bend_core::bench::{BENCH_RATE_HZ, BenchDocument, CheckedStem};
use clear_bend_core::catalogue::SoundSlot;
use clear_bend_core::effects::Setup;
use clear_bend_core::export::{Part, export};
use clear_bend_core::origin::Origin;
use clear_bend_core::path::{Chain, Path};
use clear_bend_core::region::cut;
use clear_bend_core::render::LONGEST_TAIL_S;
use clear_bend_core::signals::Source;
use clear_bend_core::{Buffer, cast};
use clear_bend_media::Format;
use clear_bend_store::Store;
use serde::Deserialize;

use super::bodies::Document;
use super::work::{Queue, Wanted, while_wanted};
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
    part: Part,
    format: String,
}

/// Exports wait for each other: each takes a processor for itself.
static QUEUE: Queue = Queue::new(8);

/// An export may take so long, s.
const MOST_S: f64 = 180.0;
/// What it will take is told from so much of it, s of sound.
const TRIED_S: f64 = 0.25;

/// Renders the stem at work over the loop region and answers with a file.
async fn sound_file(
    store: Data<Store>,
    request: HttpRequest,
    Document(asked): Document<Asked>,
) -> Result<HttpResponse, ApiError> {
    let Asked { document, part, format } = asked;
    let format = Format::named(&format)?;
    let bench = BenchDocument::from_value(document).map_err(|e| e.within("document"))?;
    let _turn = QUEUE.turn().await?;
    let bytes = while_wanted(&request, move |wanted| {
        let stems = bench.check()?;
        let stem = &stems[bench.work];
        let before = cut(&samples(&store, &stem.source)?, bench.region).into_stereo();
        let path = Sounds { store: &store, stems: &stems, bench: &bench, wanted, frames: before.frames() }
            .of(stem.path.clone())?;
        wanted.go_on();
        if part != Part::Before {
            check_time(&path, &before)?;
        }
        let sound = export(part, &before, &path, bench.play, bench.listening.level_match, |_| wanted.go_on());
        wanted.go_on();
        Ok(format.write(&sound)?)
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
        .insert_header(ContentEncoding::Identity)
        .content_type("application/octet-stream")
        .body(bytes))
}

/// Where the sounds of a path are found: beside a passage of so many frames.
struct Sounds<'a> {
    store: &'a Store,
    stems: &'a [CheckedStem],
    bench: &'a BenchDocument,
    wanted: &'a Wanted,
    frames: usize,
}

impl Sounds<'_> {
    /// A path with the samples of all its sounds: one that cannot be read would be silent in the file.
    fn of(&self, path: Path) -> Result<Path, ApiError> {
        let mut refused = None;
        let path = path.with_sounds(|_, slot, source| {
            self.laid(slot, source).map_err(|error| refused = Some(error)).ok()
        });
        refused.map_or(Ok(path), Err)
    }

    fn laid(&self, slot: &SoundSlot, source: &Source) -> Result<Arc<Buffer>, ApiError> {
        let Origin { source, path } = Origin::of(source, self.stems);
        let sound = samples(self.store, source)?;
        // Its own sounds are before their paths: this goes no deeper.
        let path = path.map(|path| self.of(path)).transpose()?;
        let BenchDocument { region, play, .. } = self.bench;
        if let Some(path) = &path {
            check_time(path, &cut(&sound, *region))?;
        }
        self.wanted.go_on();
        Ok(Arc::new(slot.laid_on_bench(&sound, path.as_ref(), *region, *play, self.frames)))
    }
}

/// Refuses a path that would take too long over a passage.
fn check_time(path: &Path, before: &Buffer) -> Result<(), ApiError> {
    let estimate_s = estimate_s(path, before);
    if estimate_s > MOST_S { Err(ApiError::too_long(estimate_s, MOST_S)) } else { Ok(()) }
}

/// How long a path will take over a passage and all that may come after it, from how long it takes over the beginning, s.
fn estimate_s(path: &Path, before: &Buffer) -> f64 {
    let rate_hz = before.rate_hz();
    let mut tried = before.slice(0..before.frames().min(cast::frames(TRIED_S, rate_hz)));
    let start = Instant::now();
    let mut chain = Chain::new(path, Setup { rate_hz, max_block: BLOCK });
    let mut at = 0;
    tried.for_each_block(BLOCK, |io| {
        let from = at;
        at += io.first().map_or(0, |channel| channel.len());
        chain.process(io, from);
    });
    let share = start.elapsed().as_secs_f64() / tried.seconds().max(1e-3);
    share * (before.seconds() + LONGEST_TAIL_S)
}

/// The samples of any source.
fn samples(store: &Store, source: &Source) -> Result<Buffer, ApiError> {
    match source {
        Source::Track { hash, .. } => tracks::load(store, hash),
        made => Ok(made.render(BENCH_RATE_HZ, 2)?),
    }
}
