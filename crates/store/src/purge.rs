//! What was deleted long ago goes for good, and its space with it.

use diesel::prelude::*;
use diesel::sql_query;
use diesel::sql_types::Integer;

use crate::{Store, StoreError};

/// For so many days a deletion can be taken back.
pub const KEPT_DAYS: i32 = 30;

impl Store {
    /// Lets go of what was deleted more than 30 days ago. A track stays as long as a document that is there, or can come back, plays it.
    /// Says how many documents and how many tracks went.
    ///
    /// # Errors
    /// Those of the database.
    pub fn purge(&self) -> Result<(usize, usize), StoreError> {
        let mut connection = self.connection()?;
        let old = "deleted_at < now() - make_interval(days => $1)";
        let documents = sql_query(format!("DELETE FROM documents WHERE {old}"))
            .bind::<Integer, _>(KEPT_DAYS)
            .execute(&mut connection)?;
        let played = "SELECT 1 FROM documents WHERE position(tracks.hash in documents.document::text) > 0";
        let tracks = sql_query(format!("DELETE FROM tracks WHERE {old} AND NOT EXISTS ({played})"))
            .bind::<Integer, _>(KEPT_DAYS)
            .execute(&mut connection)?;
        Ok((documents, tracks))
    }
}
