//! Saved benches.

use actix_web::HttpResponse;
use actix_web::http::StatusCode;
use actix_web::web::{self, Data, Json, Path, Query, ServiceConfig};
use clear_bend_core::bench::BenchDocument;
use clear_bend_store::{Bench, BenchSummary, Store};
use serde::Deserialize;

use super::{ApiError, on_database};

pub fn routes(config: &mut ServiceConfig) {
    config
        .service(web::resource("/benches").get(list).post(create))
        .service(web::resource("/benches/{id}").get(read).put(update).delete(delete))
        .service(web::resource("/benches/{id}/restore").post(restore));
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct New {
    name: String,
    document: serde_json::Value,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct Change {
    name: String,
    revision: i32,
    /// Left out to rename only.
    document: Option<serde_json::Value>,
}

#[derive(Deserialize)]
struct Revision {
    revision: i32,
}

/// Reads a bench with the core's rules, so that a refusal names the field.
fn checked(document: serde_json::Value) -> Result<BenchDocument, ApiError> {
    Ok(BenchDocument::from_value(document).map_err(|e| e.within("document"))?)
}

async fn list(store: Data<Store>) -> Result<Json<Vec<BenchSummary>>, ApiError> {
    on_database(store, |store| store.list_benches()).await.map(Json)
}

async fn create(store: Data<Store>, new: Json<New>) -> Result<(Json<Bench>, StatusCode), ApiError> {
    let New { name, document } = new.into_inner();
    let document = checked(document)?;
    let bench = on_database(store, move |store| store.create_bench(&name, &document)).await?;
    Ok((Json(bench), StatusCode::CREATED))
}

async fn read(store: Data<Store>, id: Path<i64>) -> Result<Json<Bench>, ApiError> {
    on_database(store, move |store| store.bench(*id)).await.map(Json)
}

async fn update(store: Data<Store>, id: Path<i64>, change: Json<Change>) -> Result<Json<Bench>, ApiError> {
    let Change { name, revision, document } = change.into_inner();
    let document = document.map(checked).transpose()?;
    on_database(store, move |store| store.update_bench(*id, revision, &name, document.as_ref()))
        .await
        .map(Json)
}

async fn delete(store: Data<Store>, id: Path<i64>, of: Query<Revision>) -> Result<HttpResponse, ApiError> {
    on_database(store, move |store| store.delete_bench(*id, of.revision)).await?;
    Ok(HttpResponse::NoContent().finish())
}

async fn restore(store: Data<Store>, id: Path<i64>) -> Result<Json<Bench>, ApiError> {
    on_database(store, move |store| store.restore_bench(*id)).await.map(Json)
}
