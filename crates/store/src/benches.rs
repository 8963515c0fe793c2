//! Saved benches.

use chrono::{DateTime, Utc};
use clear_bend_core::Refusal;
use clear_bend_core::bench::BenchDocument;
use diesel::prelude::*;
use serde::Serialize;

use crate::schema::benches;
use crate::{Store, StoreError};

/// Longest name of a bench, in characters.
pub const LONGEST_NAME: usize = 120;
/// Most benches that are kept.
pub const MOST_BENCHES: i64 = 10_000;

/// A saved bench.
#[derive(Debug, Clone, Serialize, Queryable, Selectable)]
#[diesel(table_name = benches)]
#[diesel(check_for_backend(diesel::pg::Pg))]
pub struct Bench {
    /// Identifier.
    pub id: i64,
    /// Name.
    pub name: String,
    /// The bench itself, as checked by the core.
    pub document: serde_json::Value,
    /// Counts the saves; a save says which one it started from.
    pub revision: i32,
    /// When it was last saved.
    pub updated_at: DateTime<Utc>,
}

/// A saved bench in a list.
#[derive(Debug, Clone, Serialize, Queryable, Selectable)]
#[diesel(table_name = benches)]
#[diesel(check_for_backend(diesel::pg::Pg))]
pub struct BenchSummary {
    /// Identifier.
    pub id: i64,
    /// Name.
    pub name: String,
    /// Counts the saves.
    pub revision: i32,
    /// When it was last saved.
    pub updated_at: DateTime<Utc>,
}

/// Checks a name: trimmed, 1 to 120 characters, no control characters.
fn checked_name(name: &str) -> Result<&str, Refusal> {
    let name = name.trim();
    let length = name.chars().count();
    if length == 0 || length > LONGEST_NAME {
        return Err(Refusal::new(
            "name",
            format!("{length} characters long"),
            format!("1 to {LONGEST_NAME} characters"),
        ));
    }
    if let Some(control) = name.chars().find(|c| c.is_control()) {
        let found = format!("text with the control character {}", control.escape_unicode());
        return Err(Refusal::new("name", found, "text on one line"));
    }
    Ok(name)
}

fn checked_document(document: &BenchDocument) -> Result<serde_json::Value, StoreError> {
    document.check()?;
    serde_json::to_value(document).map_err(|e| StoreError::Database(e.to_string()))
}

fn no_bench(id: i64) -> StoreError {
    StoreError::NotFound(format!("bench {id}"))
}

impl Store {
    /// All benches, the last saved first.
    ///
    /// # Errors
    /// Those of the database.
    pub fn list_benches(&self) -> Result<Vec<BenchSummary>, StoreError> {
        let kept = benches::table.filter(benches::deleted_at.is_null());
        let sorted = kept.order((benches::updated_at.desc(), benches::id.desc()));
        Ok(sorted.select(BenchSummary::as_select()).load(&mut self.connection()?)?)
    }

    /// One bench.
    ///
    /// # Errors
    /// [`StoreError::NotFound`], and those of the database.
    pub fn bench(&self, id: i64) -> Result<Bench, StoreError> {
        let kept = benches::table.filter(benches::id.eq(id)).filter(benches::deleted_at.is_null());
        let found = kept.select(Bench::as_select()).first(&mut self.connection()?).optional()?;
        found.ok_or(no_bench(id))
    }

    /// Saves a new bench.
    ///
    /// # Errors
    /// Refuses a bad name, a bad document and one bench too many; those of the database.
    pub fn create_bench(&self, name: &str, document: &BenchDocument) -> Result<Bench, StoreError> {
        let name = checked_name(name)?;
        let document = checked_document(document)?;
        let mut connection = self.connection()?;
        let count: i64 = benches::table.count().get_result(&mut connection)?;
        if count >= MOST_BENCHES {
            return Err(Refusal::new("benches", count, format!("at most {MOST_BENCHES}")).into());
        }
        let values = (benches::name.eq(name), benches::document.eq(document));
        let saved = diesel::insert_into(benches::table).values(values).returning(Bench::as_returning());
        Ok(saved.get_result(&mut connection)?)
    }

    /// Saves a bench again, or only renames it where no document is given.
    ///
    /// # Errors
    /// [`StoreError::Stale`] if it was saved since `revision`, [`StoreError::NotFound`]; refuses a bad name
    /// or document; those of the database.
    pub fn update_bench(
        &self,
        id: i64,
        revision: i32,
        name: &str,
        document: Option<&BenchDocument>,
    ) -> Result<Bench, StoreError> {
        let name = checked_name(name)?;
        let document = document.map(checked_document).transpose()?;
        let change = (
            benches::name.eq(name),
            document.map(|document| benches::document.eq(document)),
            benches::revision.eq(benches::revision + 1),
            benches::updated_at.eq(diesel::dsl::now),
        );
        let mut connection = self.connection()?;
        let row = benches::table
            .filter(benches::id.eq(id))
            .filter(benches::revision.eq(revision))
            .filter(benches::deleted_at.is_null());
        let saved = diesel::update(row).set(change).returning(Bench::as_returning());
        let saved = saved.get_result(&mut connection).optional()?;
        saved.map_or_else(|| Err(self.why_not(id, revision)), Ok)
    }

    /// Deletes a bench; [`Store::restore_bench`] takes it back.
    ///
    /// # Errors
    /// As [`Store::update_bench`].
    pub fn delete_bench(&self, id: i64, revision: i32) -> Result<(), StoreError> {
        let row = benches::table
            .filter(benches::id.eq(id))
            .filter(benches::revision.eq(revision))
            .filter(benches::deleted_at.is_null());
        let deleted = diesel::update(row).set(benches::deleted_at.eq(Utc::now()));
        match deleted.execute(&mut self.connection()?)? {
            0 => Err(self.why_not(id, revision)),
            _ => Ok(()),
        }
    }

    /// Takes back a deletion.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] if the bench never was; those of the database.
    pub fn restore_bench(&self, id: i64) -> Result<Bench, StoreError> {
        let row = benches::table.filter(benches::id.eq(id));
        let never = benches::deleted_at.eq(None::<DateTime<Utc>>);
        let restored = diesel::update(row).set(never).returning(Bench::as_returning());
        restored.get_result(&mut self.connection()?).optional()?.ok_or(no_bench(id))
    }

    /// Why no row fitted: the bench is gone, or has moved on.
    fn why_not(&self, id: i64, given: i32) -> StoreError {
        match self.bench(id) {
            Ok(bench) => StoreError::Stale { given, current: bench.revision },
            Err(error) => error,
        }
    }
}
