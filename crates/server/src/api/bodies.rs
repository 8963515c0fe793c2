//! Bodies of requests: none takes more time or room than it may.

use std::fs::File;
use std::future::Future;
use std::io::{Read, Seek, SeekFrom, Write};
use std::pin::Pin;
use std::sync::atomic::{AtomicU64, Ordering};
use std::sync::{Arc, Weak};
use std::time::{Duration, Instant};

use actix_web::body::SizedStream;
use actix_web::error::{JsonPayloadError, PayloadError};
use actix_web::web::{Bytes, Payload};
use actix_web::{FromRequest, HttpMessage, HttpRequest, dev};
use clear_bend_catalogue::document::check_names;
use futures_util::{Stream, StreamExt, stream};
use serde::de::DeserializeOwned;
use tokio::sync::Semaphore;

use super::work::aside;
use super::{ApiError, LARGEST_BODY};
use crate::connections::Client;

/// A document has to be there within this time.
const DOCUMENT_WAIT: Duration = Duration::from_secs(20);
/// A file may rest for so long on its way, and come so slowly on the whole, bytes a second.
const REST: Duration = Duration::from_secs(20);
const SLOWEST: f64 = 20_000.0;
/// What has come is written to disk when it is so much, bytes.
const WRITTEN_AT_ONCE: usize = 1 << 20;
/// Bytes that are sent at once.
const SENT_AT_ONCE: u64 = 1 << 16;
/// So much room is left on the disk for everything else, bytes.
const ROOM_LEFT: u64 = 200_000_000;

/// Bodies of documents that may be in memory at once, bytes.
static BODIES: Semaphore = Semaphore::const_new(64 * LARGEST_BODY);

/// A document as JSON. One that trickles in is cut off.
pub struct Document<T>(pub T);

impl<T: DeserializeOwned + 'static> FromRequest for Document<T> {
    type Error = actix_web::Error;
    type Future = Pin<Box<dyn Future<Output = Result<Self, Self::Error>>>>;

    fn from_request(request: &HttpRequest, payload: &mut dev::Payload) -> Self::Future {
        let (is_json, body) = (says_json(request), payload.take());
        Box::pin(async move {
            let room = u32::try_from(LARGEST_BODY).unwrap_or(u32::MAX);
            let held = async {
                is_json?;
                let _room = BODIES.acquire_many(room).await.map_err(|_| ApiError::stopping())?;
                document_of(&gathered(body).await?)
            };
            let read = tokio::time::timeout(DOCUMENT_WAIT, held).await.map_err(|_| ApiError::too_slow())?;
            Ok(Self(read?))
        })
    }
}

/// All of a body that is not too large.
async fn gathered(mut body: dev::Payload) -> Result<Vec<u8>, ApiError> {
    let mut bytes = Vec::new();
    while let Some(more) = body.next().await {
        bytes.extend_from_slice(
            &more.map_err(|_| ApiError::body(&JsonPayloadError::Payload(PayloadError::Incomplete(None))))?,
        );
        if bytes.len() > LARGEST_BODY {
            return Err(ApiError::body(&JsonPayloadError::Overflow { limit: LARGEST_BODY }));
        }
    }
    Ok(bytes)
}

fn says_json(request: &HttpRequest) -> Result<(), ApiError> {
    let is_json = request.content_type().eq_ignore_ascii_case("application/json");
    if is_json { Ok(()) } else { Err(ApiError::body(&JsonPayloadError::ContentType)) }
}

/// Reads a document in which every name stands once.
fn document_of<T: DeserializeOwned>(text: &[u8]) -> Result<T, ApiError> {
    let read = serde_json::from_slice(text).map_err(|e| ApiError::body(&JsonPayloadError::Deserialize(e)))?;
    check_names(std::str::from_utf8(text).unwrap_or_default())?;
    Ok(read)
}

/// A document that waits on the disk until its turn has come.
///
/// # Errors
/// Refuses what is not said to be JSON, and as [`spooled`] does.
pub async fn waiting(request: &HttpRequest, body: Payload) -> Result<Spooled, ApiError> {
    says_json(request)?;
    Ok(Spooled(spooled(body, LARGEST_BODY).await?))
}

/// A document on the disk.
pub struct Spooled(File);

impl Spooled {
    /// Reads it.
    ///
    /// # Errors
    /// Says where it is not what is expected.
    pub fn read<T: DeserializeOwned>(mut self) -> Result<T, ApiError> {
        let mut text = Vec::new();
        self.0.rewind().and_then(|()| self.0.read_to_end(&mut text)).map_err(|e| ApiError::disk(&e))?;
        document_of(&text)
    }
}

/// Puts an answer on the disk, where it waits for its client.
///
/// # Errors
/// Says that the disk is full.
pub fn on_disk(bytes: &[u8]) -> Result<File, ApiError> {
    look_for_room()?;
    let file = tempfile::tempfile().and_then(|mut file| file.write_all(bytes).map(|()| file));
    file.map_err(|e| ApiError::disk(&e))
}

/// Hands out a file from the disk: a client that takes it in too slowly is left.
pub fn handed_out(request: &HttpRequest, mut file: File) -> Result<SizedStream<FromDisk>, ApiError> {
    let length = file.seek(SeekFrom::End(0)).and_then(|length| file.rewind().map(|()| length));
    let length = length.map_err(|e| ApiError::disk(&e))?;
    let sent = Arc::new(AtomicU64::new(0));
    if let Some(client) = request.conn_data::<Client>() {
        actix_web::rt::spawn(watch(client.clone(), Arc::downgrade(&sent)));
    }
    let pieces = stream::try_unfold((file, sent), |(file, sent)| {
        aside(move || {
            let mut bytes = Vec::new();
            (&file).take(SENT_AT_ONCE).read_to_end(&mut bytes).map_err(|e| ApiError::disk(&e))?;
            sent.fetch_add(bytes.len() as u64, Ordering::Relaxed);
            Ok((!bytes.is_empty()).then(|| (Bytes::from(bytes), (file, sent))))
        })
    });
    Ok(SizedStream::new(length, Box::pin(pieces)))
}

/// Pieces of a file.
pub type FromDisk = Pin<Box<dyn Stream<Item = Result<Bytes, ApiError>>>>;

/// Leaves a client that takes in less than [`SLOWEST`], once it has had the time of [`REST`].
async fn watch(client: Client, sent: Weak<AtomicU64>) {
    let mut had = 0;
    loop {
        tokio::time::sleep(REST).await;
        // What has been handed over whole is the system's to deliver.
        let Some(sent) = sent.upgrade().map(|sent| sent.load(Ordering::Relaxed)) else { return };
        if clear_bend_sound::cast::real(usize::try_from(sent - had).unwrap_or(usize::MAX))
            < SLOWEST * REST.as_secs_f64()
        {
            return client.leave();
        }
        had = sent;
    }
}

/// Writes a file that is brought to the disk as it comes, where it has no name and goes with the last that holds it.
///
/// # Errors
/// Refuses what is too large, too slow, or more than the disk has room for; what breaks off.
pub async fn spooled(mut body: Payload, largest: usize) -> Result<File, ApiError> {
    let begun = Instant::now();
    let mut file = aside(|| tempfile::tempfile().map_err(|e| ApiError::disk(&e))).await?;
    let (mut piece, mut length) = (Vec::new(), 0);
    while let Some(more) = tokio::time::timeout(REST, body.next()).await.map_err(|_| ApiError::too_slow())? {
        let more = more.map_err(|_| ApiError::broken_off())?;
        length += more.len();
        if length > largest {
            return Err(ApiError::too_large(largest));
        }
        let seconds = begun.elapsed().as_secs_f64();
        if seconds > REST.as_secs_f64() && clear_bend_sound::cast::real(length) < SLOWEST * seconds {
            return Err(ApiError::too_slow());
        }
        piece.extend_from_slice(&more);
        if piece.len() >= WRITTEN_AT_ONCE {
            file = written(file, std::mem::take(&mut piece)).await?;
        }
    }
    written(file, piece).await
}

/// Refuses to write where the disk is nearly full.
///
/// # Errors
/// Says that it is.
pub fn look_for_room() -> Result<(), ApiError> {
    let room = nix::sys::statvfs::statvfs(&std::env::temp_dir())
        .map_or(u64::MAX, |at| at.blocks_available() * at.fragment_size());
    if room < ROOM_LEFT { Err(ApiError::full()) } else { Ok(()) }
}

async fn written(mut file: File, piece: Vec<u8>) -> Result<File, ApiError> {
    aside(move || {
        look_for_room()?;
        file.write_all(&piece).map_err(|e| ApiError::disk(&e))?;
        Ok(file)
    })
    .await
}
