//! A bench as sound files: before, after, difference.

use std::sync::Arc;

use actix_web::HttpResponse;
use actix_web::http::header::{ContentDisposition, ContentEncoding, DispositionParam, DispositionType};
use actix_web::web::{self, Data, Json, ServiceConfig};
use clear_bend_core::Buffer;
use clear_bend_core::bench::{BENCH_RATE_HZ, BenchDocument, origin};
use clear_bend_core::export::{Part, export};
use clear_bend_core::region::cut;
use clear_bend_core::signals::Source;
use clear_bend_media::Format;
use clear_bend_store::Store;
use serde::Deserialize;
use tokio::sync::Semaphore;

use super::{ApiError, aside, tracks};

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

/// Exports wait for each other.
static ONE_AT_A_TIME: Semaphore = Semaphore::const_new(1);

/// Renders the stem at work over the loop region and answers with a file.
async fn sound_file(store: Data<Store>, wanted: Json<Wanted>) -> Result<HttpResponse, ApiError> {
    let Wanted { document, part, format } = wanted.into_inner();
    let format = Format::named(&format)?;
    let bench = BenchDocument::from_value(document).map_err(|e| e.within("document"))?;
    // One at a time: each takes a processor for itself.
    let _turn = ONE_AT_A_TIME.acquire().await.map_err(|_| ApiError::stopping())?;
    let bytes = aside(move || {
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
        Ok(format.write(&export(part, &before, &path, bench.play, bench.listening.level_match))?)
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

/// The samples of any source.
fn samples(store: &Store, source: &Source) -> Result<Buffer, ApiError> {
    match source {
        Source::Track(hash) => tracks::load(store, hash),
        made => Ok(made.render(BENCH_RATE_HZ, 2)?),
    }
}
