//! A bench as sound files: before, after, difference.

use std::sync::Arc;
use std::time::Instant;

use actix_web::http::header::{ContentDisposition, ContentEncoding, DispositionParam, DispositionType};
use actix_web::web::{self, Data, ServiceConfig};
use actix_web::{HttpRequest, HttpResponse};
use clear_bend_core::bench::{BENCH_RATE_HZ, BenchDocument, origin};
use clear_bend_core::effects::Setup;
use clear_bend_core::export::{Part, export};
use clear_bend_core::path::{Chain, Path};
use clear_bend_core::region::cut;
use clear_bend_core::render::LONGEST_TAIL_S;
use clear_bend_core::signals::Source;
use clear_bend_core::{Buffer, cast};
use clear_bend_media::Format;
use clear_bend_store::Store;
use serde::Deserialize;

use super::bodies::Document;
use super::work::{Queue, while_wanted};
use super::{ApiError, tracks};

/// Frames in a block of that.
const BLOCK: usize = 512;

pub fn routes(config: &mut ServiceConfig) {
    config.service(web::resource("/exports").post(sound_file));
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct Wanted {
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
    Document(wanted): Document<Wanted>,
) -> Result<HttpResponse, ApiError> {
    let Wanted { document, part, format } = wanted;
    let format = Format::named(&format)?;
    let bench = BenchDocument::from_value(document).map_err(|e| e.within("document"))?;
    let _turn = QUEUE.turn().await?;
    let bytes = while_wanted(&request, move |wanted| {
        let stems = bench.check()?;
        let stem = &stems[bench.work];
        let before = cut(&samples(&store, &stem.source)?, bench.region).into_stereo();
        // A sound that cannot be read would be silent in the file.
        let mut unreadable = None;
        let path = stem.path.clone().with_sounds(|_, slot, source| {
            let sound =
                samples(&store, origin(source, &stems)).map_err(|error| unreadable = Some(error)).ok()?;
            Some(Arc::new(slot.laid_on_bench(&sound, bench.region, before.frames())))
        });
        if let Some(error) = unreadable {
            return Err(error);
        }
        wanted.go_on();
        let estimate_s = estimate_s(&path, &before);
        if part != Part::Before && estimate_s > MOST_S {
            return Err(ApiError::too_long(estimate_s, MOST_S));
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
        Source::Track(hash) => tracks::load(store, hash),
        made => Ok(made.render(BENCH_RATE_HZ, 2)?),
    }
}
