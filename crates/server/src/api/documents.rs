//! What is saved under a name: benches and own ear maps, each kind at an address of its own.

use actix_web::http::StatusCode;
use actix_web::web::{self, Data, Json, Path, Query, ServiceConfig};
use actix_web::{HttpRequest, HttpResponse};
use clear_bend_bench::BenchDocument;
use clear_bend_catalogue::ear_maps::EarMapDocument;
use clear_bend_measures::responses::ResponseDocument;
use clear_bend_store::{Document as Kept, MOST_DOCUMENTS, Saved, Search, Store, StoreError};
use serde::Deserialize;
use serde_json::Value;

use super::bodies::Document;
use super::work::in_turn;
use super::{ApiError, on_database};

pub fn routes(config: &mut ServiceConfig) {
    of_kind::<BenchDocument>(config, "/benches");
    of_kind::<EarMapDocument>(config, "/ear-maps");
    of_kind::<ResponseDocument>(config, "/responses");
}

fn of_kind<D: Kept>(config: &mut ServiceConfig, address: &str) {
    let one = format!("{address}/{{id}}");
    config
        .service(web::resource(address).get(list::<D>).post(create::<D>))
        .service(web::resource(one.as_str()).get(read::<D>).put(update::<D>).delete(delete::<D>))
        .service(web::resource(format!("{one}/restore")).post(restore::<D>));
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct New {
    name: String,
    document: Value,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct Change {
    name: String,
    revision: i32,
    /// Left out to rename only.
    document: Option<Value>,
}

#[derive(Deserialize)]
struct Revision {
    revision: i32,
}

/// Reads a document with the core's rules, so that a refusal names the field.
fn checked<D: Kept>(document: Value) -> Result<D, ApiError> {
    Ok(D::from_value(document).map_err(|e| e.within("document"))?)
}

/// Saves a document, or its name alone; what takes a sound into memory for it, in its turn.
async fn saved<D: Kept>(
    request: &HttpRequest,
    store: Data<Store>,
    whole: bool,
    save: impl FnOnce(&Store) -> Result<Saved, StoreError> + Send + 'static,
) -> Result<Saved, ApiError> {
    if D::HOLDS_SOUND && whole {
        in_turn(request, move |_| Ok(save(&store)?)).await
    } else {
        on_database(store, save).await
    }
}

/// A page of the list. How many there are in all, how many there may be, and whether the list goes on, is said beside it.
async fn list<D: Kept>(store: Data<Store>, search: Query<Search>) -> Result<HttpResponse, ApiError> {
    let page = on_database(store, move |store| store.list::<D>(&search)).await?;
    Ok(HttpResponse::Ok()
        .insert_header(("x-total", page.total.to_string()))
        .insert_header(("x-most", MOST_DOCUMENTS.to_string()))
        .insert_header(("x-goes-on", page.goes_on.to_string()))
        .json(page.documents))
}

async fn create<D: Kept>(
    store: Data<Store>,
    request: HttpRequest,
    Document(new): Document<New>,
) -> Result<(Json<Saved>, StatusCode), ApiError> {
    let New { name, document } = new;
    let document: D = checked(document)?;
    let create = move |store: &Store| store.create(&name, &document.completed(store)?);
    let saved = saved::<D>(&request, store, true, create).await?;
    Ok((Json(saved), StatusCode::CREATED))
}

async fn read<D: Kept>(store: Data<Store>, id: Path<i64>) -> Result<Json<Saved>, ApiError> {
    on_database(store, move |store| store.read::<D>(*id)).await.map(Json)
}

async fn update<D: Kept>(
    store: Data<Store>,
    id: Path<i64>,
    request: HttpRequest,
    Document(change): Document<Change>,
) -> Result<Json<Saved>, ApiError> {
    let Change { name, revision, document } = change;
    let document: Option<D> = document.map(checked).transpose()?;
    let whole = document.is_some();
    let update = move |store: &Store| {
        let document = document.map(|document| document.completed(store)).transpose()?;
        store.update(*id, revision, &name, document.as_ref())
    };
    saved::<D>(&request, store, whole, update).await.map(Json)
}

async fn delete<D: Kept>(
    store: Data<Store>,
    id: Path<i64>,
    of: Query<Revision>,
) -> Result<HttpResponse, ApiError> {
    on_database(store, move |store| store.delete::<D>(*id, of.revision)).await?;
    Ok(HttpResponse::NoContent().finish())
}

async fn restore<D: Kept>(store: Data<Store>, id: Path<i64>) -> Result<Json<Saved>, ApiError> {
    on_database(store, move |store| store.restore::<D>(*id)).await.map(Json)
}
