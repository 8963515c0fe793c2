//! Tracks that people bring, and the shipped voice.

use std::io::{Cursor, Read, Seek};

use chrono::{DateTime, Utc};
use clear_bend_media::Imported;
use clear_bend_signals::check_hash;
use clear_bend_sound::Refusal;
use diesel::prelude::*;
use serde::Serialize;

use crate::names::shown_name;
use crate::schema::{track_parts, tracks};
use crate::{Store, StoreError};

/// Most tracks that are kept.
pub const MOST_TRACKS: i64 = 1_000;

/// A kept track, as it stands in a list.
#[derive(Debug, Clone, Serialize, Queryable, Selectable)]
#[diesel(table_name = tracks)]
#[diesel(check_for_backend(diesel::pg::Pg))]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct Track {
    /// SHA-256 of the file that was brought.
    pub hash: String,
    /// Name of that file.
    pub name: String,
    /// Its sample rate, Hz.
    pub rate_hz: i32,
    /// Its channels.
    pub channels: i32,
    /// Samples per channel at the rate of the benches.
    #[cfg_attr(feature = "typescript", ts(type = "number"))]
    pub frames: i64,
    /// Peak level, dBFS; none for silence.
    pub peak_dbfs: Option<f64>,
    /// Integrated loudness, LUFS; none where it is too short or too quiet.
    pub loudness_lufs: Option<f64>,
    /// When it was brought.
    #[cfg_attr(feature = "typescript", ts(type = "string"))]
    pub created_at: DateTime<Utc>,
}

/// The sound of a track.
#[derive(Debug)]
pub struct TrackSound {
    /// FLAC at the rate of the benches, read from the database part by part.
    pub flac: TrackParts,
    /// How many times its samples were halved to fit.
    pub halvings: u32,
    /// The sample rate at which it was brought, Hz.
    pub rate_hz: u32,
    /// Its channels.
    pub channels: usize,
    /// Samples per channel.
    pub frames: usize,
}

/// The bytes of a track as they are kept: part by part, never all of them.
pub struct TrackParts {
    store: Store,
    hash: String,
    next: i32,
    part: Cursor<Vec<u8>>,
}

impl std::fmt::Debug for TrackParts {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("TrackParts")
            .field("hash", &self.hash)
            .field("next", &self.next)
            .finish_non_exhaustive()
    }
}

impl Read for TrackParts {
    fn read(&mut self, into: &mut [u8]) -> std::io::Result<usize> {
        let count = self.part.read(into)?;
        if count > 0 || into.is_empty() {
            return Ok(count);
        }
        let next = self.store.track_part(&self.hash, self.next).map_err(std::io::Error::other)?;
        self.next += 1;
        self.part = Cursor::new(next.unwrap_or_default());
        self.part.read(into)
    }
}

/// Bytes in a part: the migration cuts what was kept before into the same.
const PART: u64 = 1 << 20;

fn finite(level: f64) -> Option<f64> {
    level.is_finite().then_some(level)
}

impl Store {
    /// All tracks, or all that are deleted and can be taken back, the newest first.
    ///
    /// # Errors
    /// Those of the database.
    pub fn list_tracks(&self, deleted: bool) -> Result<Vec<Track>, StoreError> {
        let kept = tracks::table.filter(tracks::deleted_at.is_not_null().eq(deleted));
        let sorted = kept.order((tracks::created_at.desc(), tracks::name.asc()));
        Ok(sorted.select(Track::as_select()).load(&mut self.connection()?)?)
    }

    /// Keeps an imported file. The same content is kept once, under its first name; if that was deleted, it is back.
    ///
    /// # Errors
    /// Refuses one track too many; those of the database.
    pub fn keep_track(&self, name: &str, imported: &Imported) -> Result<Track, StoreError> {
        self.look_for_room(imported.flac_bytes)?;
        let mut connection = self.connection()?;
        // What is deleted does not count.
        let there = tracks::table.filter(tracks::deleted_at.is_null());
        let count: i64 = there.count().get_result(&mut connection)?;
        if count >= MOST_TRACKS {
            return Err(Refusal::new("tracks", count, format!("at most {MOST_TRACKS}")).into());
        }
        keep(&mut connection, name, imported)
    }

    /// The kept track of this content, taken back if it was deleted; none if it was never brought.
    ///
    /// # Errors
    /// Refuses what is not a hash; those of the database.
    pub fn track_again(&self, hash: &str) -> Result<Option<Track>, StoreError> {
        check_hash(hash)?;
        let row = diesel::update(tracks::table.filter(tracks::hash.eq(hash)));
        let back = row.set(tracks::deleted_at.eq(None::<DateTime<Utc>>)).returning(Track::as_returning());
        Ok(back.get_result(&mut self.connection()?).optional()?)
    }

    /// The sound of a track, also of a deleted one: benches may still play it.
    ///
    /// # Errors
    /// [`StoreError::NotFound`]; refuses what is not a hash; those of the database.
    pub fn track_sound(&self, hash: &str) -> Result<TrackSound, StoreError> {
        check_hash(hash)?;
        let row = tracks::table.filter(tracks::hash.eq(hash));
        let row = row.select((tracks::halvings, tracks::rate_hz, tracks::channels, tracks::frames));
        let found: Option<(i32, i32, i32, i64)> = row.first(&mut self.connection()?).optional()?;
        let (halvings, rate_hz, channels, frames) =
            found.ok_or_else(|| StoreError::NotFound(format!("track {hash}")))?;
        Ok(TrackSound {
            flac: TrackParts { store: self.clone(), hash: hash.to_owned(), next: 0, part: Cursor::default() },
            halvings: halvings.unsigned_abs(),
            rate_hz: rate_hz.unsigned_abs(),
            channels: usize::try_from(channels).unwrap_or(0),
            frames: usize::try_from(frames).unwrap_or(0),
        })
    }

    /// One part of a track; none after the last.
    fn track_part(&self, hash: &str, part: i32) -> Result<Option<Vec<u8>>, StoreError> {
        let row = track_parts::table.find((hash, part)).select(track_parts::flac);
        Ok(row.first(&mut self.connection()?).optional()?)
    }

    /// Takes a track out of the list; [`Store::track_again`] takes it back.
    ///
    /// # Errors
    /// [`StoreError::NotFound`]; refuses what is not a hash; those of the database.
    pub fn delete_track(&self, hash: &str) -> Result<(), StoreError> {
        check_hash(hash)?;
        let row = tracks::table.filter(tracks::hash.eq(hash)).filter(tracks::deleted_at.is_null());
        match diesel::update(row).set(tracks::deleted_at.eq(Utc::now())).execute(&mut self.connection()?)? {
            0 => Err(StoreError::NotFound(format!("track {hash}"))),
            _ => Ok(()),
        }
    }
}

pub(crate) fn keep(
    connection: &mut PgConnection,
    name: &str,
    imported: &Imported,
) -> Result<Track, StoreError> {
    let too_long = |_| StoreError::Database("a number is too large for its column".to_owned());
    let values = (
        tracks::hash.eq(&imported.hash),
        tracks::name.eq(shown_name(name)),
        tracks::rate_hz.eq(i32::try_from(imported.rate_hz).map_err(too_long)?),
        tracks::channels.eq(i32::try_from(imported.channels).map_err(too_long)?),
        tracks::frames.eq(i64::try_from(imported.frames).map_err(too_long)?),
        tracks::peak_dbfs.eq(finite(imported.peak_dbfs)),
        tracks::loudness_lufs.eq(finite(imported.loudness_lufs)),
        tracks::halvings.eq(i32::try_from(imported.halvings).map_err(too_long)?),
    );
    // All of it or nothing.
    connection.transaction(|connection| {
        let kept = diesel::insert_into(tracks::table)
            .values(values)
            .on_conflict(tracks::hash)
            .do_update()
            .set(tracks::deleted_at.eq(None::<DateTime<Utc>>))
            .returning(Track::as_returning());
        let kept = kept.get_result(connection)?;
        let mut flac = &imported.flac;
        flac.rewind().map_err(StoreError::file)?;
        for part in 0.. {
            let mut bytes = Vec::new();
            flac.take(PART).read_to_end(&mut bytes).map_err(StoreError::file)?;
            if bytes.is_empty() {
                break;
            }
            let hash = track_parts::hash.eq(&imported.hash);
            diesel::insert_into(track_parts::table)
                .values((hash, track_parts::part.eq(part), track_parts::flac.eq(bytes)))
                .on_conflict_do_nothing()
                .execute(connection)?;
        }
        Ok(kept)
    })
}
