//! Responses as files: handed out with their recipe, and brought, with one or without.

use std::fs::File;
use std::io::{Read, Seek};

use actix_web::http::StatusCode;
use actix_web::web::{self, Data, Json, Payload, Query, ServiceConfig};
use actix_web::{HttpRequest, HttpResponse};
use clear_bend_bench::BENCH_RATE_HZ;
use clear_bend_catalogue::document::{parse_json, parse_value};
use clear_bend_measures::responses::ResponseDocument;
use clear_bend_measures::sweeps::{Recovered, response_of};
use clear_bend_media::{import, read_sound, recipe_of, with_recipe, write_wav};
use clear_bend_signals::{Source, SourceDocument};
use clear_bend_sound::Refusal;
use clear_bend_store::{Document as _, Saved, Store};
use serde::Deserialize;

use super::bodies::{handed_out, on_disk, spooled, waiting};
use super::work::in_turn;
use super::{ApiError, tracks};

/// The largest file that is brought as a response, bytes: some more than the longest at the highest rate in 64 bits.
const LARGEST_FILE: usize = 40_000_000;

/// The largest recording of a sweep, bytes, and the longest, samples: its spectrum is in memory as a whole.
const LARGEST_RECORDING: usize = 40_000_000;
const LONGEST_RECORDING: usize = 2_400_000;

pub fn routes(config: &mut ServiceConfig) {
    config
        .service(web::resource("/responses/file").post(file))
        .service(web::resource("/responses/bring").post(bring))
        .service(web::resource("/responses/recorded").post(recorded));
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct Asked {
    source: serde_json::Value,
}

#[derive(Deserialize)]
struct Named {
    #[serde(default)]
    name: String,
}

#[derive(Deserialize)]
struct OfSweep {
    #[serde(default)]
    name: String,
    /// The sweep that was recorded, a source as JSON.
    sweep: String,
}

/// A response that can be made, as a WAV file of 32-bit numbers that says how.
async fn file(request: HttpRequest, body: Payload) -> Result<HttpResponse, ApiError> {
    let asked = waiting(&request, body).await?;
    let file = in_turn(&request, move |_| {
        let document: SourceDocument = parse_value(asked.read::<Asked>()?.source)?;
        let source = Source::from_document(&document).map_err(|e| e.within("source"))?;
        let sound = source.render(BENCH_RATE_HZ, 2)?;
        let recipe = serde_json::to_string(&source.to_file()).unwrap_or_default();
        on_disk(&with_recipe(write_wav(&sound)?, &recipe))
    });
    let file = file.await?;
    Ok(HttpResponse::Ok().content_type("application/octet-stream").body(handed_out(&request, file)?))
}

/// The recipe in a file; none in what is no WAV file, or has none.
fn recipe_in(file: &File) -> Result<Option<SourceDocument>, ApiError> {
    let bytes = content(file).map_err(|e| ApiError::disk(&e))?;
    let recipe = recipe_of(&bytes).map(|text| parse_json(text).map_err(|e| e.within("recipe")));
    Ok(recipe.transpose()?)
}

fn content(file: &File) -> std::io::Result<Vec<u8>> {
    let (mut file, mut bytes) = (file.try_clone()?, Vec::new());
    file.rewind()?;
    file.read_to_end(&mut bytes)?;
    Ok(bytes)
}

/// The name of a file without what says its kind.
fn without_ending(name: &str) -> &str {
    name.rsplit_once('.').map_or(name, |(bare, _)| bare)
}

/// Keeps a sound file as a response: by its recipe where it has one, as a track where it has none.
async fn bring(
    store: Data<Store>,
    named: Query<Named>,
    request: HttpRequest,
    body: Payload,
) -> Result<(Json<Saved>, StatusCode), ApiError> {
    let file = spooled(body, LARGEST_FILE).await?;
    let saved = in_turn(&request, move |wanted| {
        let source = match recipe_in(&file)? {
            Some(source) => source,
            None => {
                let track = tracks::keep(&store, &named.name, &file, wanted)?;
                SourceDocument { name: Some(track.name), ..SourceDocument::of_track(&track.hash) }
            }
        };
        let response = ResponseDocument::new(source).completed(&store)?;
        Ok(store.create(without_ending(&named.name), &response)?)
    });
    Ok((Json(saved.await?), StatusCode::CREATED))
}

/// Works the response out of the recording of a sweep, and keeps it as a track of its own.
async fn recorded(
    store: Data<Store>,
    of: Query<OfSweep>,
    request: HttpRequest,
    body: Payload,
) -> Result<(Json<Saved>, StatusCode), ApiError> {
    let sweep: SourceDocument = parse_json(&of.sweep).map_err(|e| e.within("sweep"))?;
    let file = spooled(body, LARGEST_RECORDING).await?;
    let saved = in_turn(&request, move |_| {
        let recording = read_sound(&content(&file).map_err(|e| ApiError::disk(&e))?)?;
        if recording.frames() > LONGEST_RECORDING {
            let found = format!("{:.0} s long at {} Hz", recording.seconds(), recording.rate_hz());
            let accepted =
                format!("at most {} s at that rate", LONGEST_RECORDING / recording.rate_hz() as usize);
            return Err(Refusal::new("recording", found, accepted).into());
        }
        let Recovered { response, found } = response_of(&recording, &sweep)?;
        let name = format!("{}, response", without_ending(&of.name));
        let track = store.keep_track(&name, &import(&write_wav(&response)?)?)?;
        let source = SourceDocument { name: Some(track.name), ..SourceDocument::of_track(&track.hash) };
        let mut response = ResponseDocument::new(source).completed(&store)?;
        response.about = response.about.map(|about| about.recorded(found));
        Ok(store.create(&name, &response)?)
    });
    Ok((Json(saved.await?), StatusCode::CREATED))
}
