//! Documents saved under a name, with a revision: benches and own ear maps.

use chrono::{DateTime, Utc};
use clear_bend_bench::{BENCH_RATE_HZ, BenchDocument};
use clear_bend_catalogue::ear_maps::EarMapDocument;
use clear_bend_measures::responses::{ResponseAbout, ResponseDocument};
use clear_bend_media::unpack;
use clear_bend_signals::Source;
use clear_bend_sound::Refusal;
use clear_bend_sound::cast::real;
use diesel::prelude::*;
use serde::{Deserialize, Serialize};
use serde_json::Value;

use unicode_normalization::UnicodeNormalization;

use crate::names::{LONGEST_NAME, checked_name};
use crate::schema::documents;
use crate::{Store, StoreError};

/// Most documents of one kind that are kept.
pub const MOST_DOCUMENTS: i64 = 10_000;
/// Documents on a page of their list.
pub const PAGE: i64 = 100;

/// Which page of a list is wanted.
#[derive(Debug, Clone, Default, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Search {
    /// Only what has these letters in its name, large or small.
    #[serde(default)]
    pub named: String,
    /// What is deleted and can be taken back, instead of what is there.
    #[serde(default)]
    pub deleted: bool,
    /// What comes after this document, as it stood in the list; from the beginning where none is given.
    pub after: Option<i64>,
    /// When that document had been saved last. What has been saved since is at the beginning of the list, and missed by nobody.
    pub saved_at: Option<DateTime<Utc>>,
}

/// A page of a list.
#[derive(Debug, Clone)]
pub struct Page {
    /// At most [`PAGE`] documents, the last saved first.
    pub documents: Vec<Summary>,
    /// Whether there are more after these.
    pub goes_on: bool,
    /// How many documents of the kind there are, or are deleted, whatever they are called.
    pub total: i64,
}

/// What can be saved.
pub trait Document: Serialize + Sized + Send + 'static {
    /// What it is called, in the table and in sentences.
    const KIND: &'static str;
    /// Whether [`Document::completed`] takes a sound into memory, so that it is to be done in turn.
    const HOLDS_SOUND: bool = false;

    /// Reads and checks one by the core's rules.
    ///
    /// # Errors
    /// Those of the core.
    fn from_value(value: Value) -> Result<Self, Refusal>;

    /// The same with what is said of it in lists, where it is kept with that.
    ///
    /// # Errors
    /// Those of the core, and of the database.
    fn completed(self, _: &Store) -> Result<Self, StoreError> {
        Ok(self)
    }

    /// Checks it by the core's rules, and gives it as it stands in files.
    ///
    /// # Errors
    /// Those of the core.
    fn to_file(&self) -> Result<Self, Refusal>;
}

impl Document for BenchDocument {
    const KIND: &'static str = "bench";

    fn from_value(value: Value) -> Result<Self, Refusal> {
        Self::from_value(value)
    }

    fn to_file(&self) -> Result<Self, Refusal> {
        self.to_file()
    }
}

impl Document for EarMapDocument {
    const KIND: &'static str = "ear map";

    fn from_value(value: Value) -> Result<Self, Refusal> {
        Self::from_value(value)
    }

    fn to_file(&self) -> Result<Self, Refusal> {
        self.check().map(|()| self.clone())
    }
}

impl Document for ResponseDocument {
    const KIND: &'static str = "response";
    const HOLDS_SOUND: bool = true;

    fn from_value(value: Value) -> Result<Self, Refusal> {
        Self::from_value(value)
    }

    /// Measured as it is kept or made.
    fn completed(self, store: &Store) -> Result<Self, StoreError> {
        let source = self.checked()?;
        let (sound, rate_hz) = match &source {
            Source::Track { hash, .. } => {
                let kept = store.track_sound(hash)?;
                let rate_hz = kept.rate_hz;
                // Ten minutes are not even unpacked.
                ResponseAbout::check_length(real(kept.frames) / f64::from(BENCH_RATE_HZ))?;
                (unpack(kept.flac, kept.halvings).map_err(|e| StoreError::Database(e.to_string()))?, rate_hz)
            }
            made => (made.render(BENCH_RATE_HZ, 2)?, BENCH_RATE_HZ),
        };
        let about = ResponseAbout::of(&self.source, &sound, rate_hz)?;
        Ok(Self { about: Some(about), ..self })
    }

    fn to_file(&self) -> Result<Self, Refusal> {
        self.to_file()
    }
}

/// A saved document.
#[derive(Debug, Clone, Serialize, Queryable, Selectable)]
#[diesel(table_name = documents)]
#[diesel(check_for_backend(diesel::pg::Pg))]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct Saved {
    /// Identifier, among documents of all kinds: by chance, so that nobody finds another one by counting.
    #[cfg_attr(feature = "typescript", ts(type = "number"))]
    pub id: i64,
    /// Name.
    pub name: String,
    /// The document itself, as checked by the core.
    #[cfg_attr(feature = "typescript", ts(type = "unknown"))]
    pub document: Value,
    /// Counts the saves; a save says which one it started from.
    pub revision: i32,
    /// Whether it is one of the demo data, over which nothing is saved.
    pub shipped: bool,
    /// When it was last saved.
    #[cfg_attr(feature = "typescript", ts(type = "string"))]
    pub updated_at: DateTime<Utc>,
}

/// A saved document in a list.
#[derive(Debug, Clone, Serialize, Queryable, Selectable)]
#[diesel(table_name = documents)]
#[diesel(check_for_backend(diesel::pg::Pg))]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct Summary {
    /// Identifier, among documents of all kinds: by chance, so that nobody finds another one by counting.
    #[cfg_attr(feature = "typescript", ts(type = "number"))]
    pub id: i64,
    /// Name.
    pub name: String,
    /// Counts the saves.
    pub revision: i32,
    /// Whether it is one of the demo data, over which nothing is saved.
    pub shipped: bool,
    /// When it was last saved.
    #[cfg_attr(feature = "typescript", ts(type = "string"))]
    pub updated_at: DateTime<Utc>,
    /// What is said of a response; none of what is no response.
    #[cfg_attr(feature = "typescript", ts(type = "ResponseAbout | null"))]
    pub about: Option<Value>,
}

/// A document as it is kept.
pub(crate) fn kept<D: Document>(document: &D) -> Result<Value, StoreError> {
    let value = serde_json::to_value(document.to_file()?).map_err(|e| StoreError::Database(e.to_string()))?;
    // The database keeps no text with it.
    if has_nul(&value) {
        return Err(Refusal::new("document", "text with the character NUL", "text without it").into());
    }
    Ok(value)
}

fn has_nul(value: &Value) -> bool {
    match value {
        Value::String(text) => text.contains('\0'),
        Value::Array(items) => items.iter().any(has_nul),
        Value::Object(fields) => fields.iter().any(|(name, value)| name.contains('\0') || has_nul(value)),
        _ => false,
    }
}

/// A saved document as files are written today: the database keeps no order, and what was saved long ago is in an older form.
/// What today's rules do not accept is handed out as it is, so that it is not lost.
fn as_file<D: Document>(mut saved: Saved) -> Saved {
    let today = D::from_value(saved.document.clone()).ok().and_then(|document| kept(&document).ok());
    saved.document = today.unwrap_or(saved.document);
    saved
}

/// The pattern of names that hold these letters, which mean nothing but themselves.
fn holding(letters: &str) -> String {
    let plain = letters.replace('\\', r"\\").replace('%', r"\%").replace('_', r"\_");
    format!("%{}%", plain.nfc().collect::<String>())
}

/// The row of a document that is as it was last seen.
#[diesel::dsl::auto_type]
fn seen(kind: &'static str, id: i64, revision: i32) -> _ {
    documents::table
        .filter(documents::id.eq(id))
        .filter(documents::kind.eq(kind))
        .filter(documents::revision.eq(revision))
        .filter(documents::deleted_at.is_null())
}

fn missing<D: Document>(id: i64) -> StoreError {
    StoreError::NotFound(format!("{} {id}", D::KIND))
}

impl Store {
    /// The documents of a kind page by page, the last saved first.
    ///
    /// # Errors
    /// Refuses a name that is looked for and longer than any; those of the database.
    pub fn list<D: Document>(&self, search: &Search) -> Result<Page, StoreError> {
        let letters = search.named.trim();
        if letters.chars().count() > LONGEST_NAME || letters.chars().any(char::is_control) {
            let accepted = format!("at most {LONGEST_NAME} characters of a name");
            return Err(Refusal::new("named", "another text", accepted).into());
        }
        let mut connection = self.connection()?;
        let kept = || {
            let wanted = documents::deleted_at.is_not_null().eq(search.deleted);
            documents::table.filter(documents::kind.eq(D::KIND)).filter(wanted)
        };
        let total = kept().count().get_result(&mut connection)?;
        let mut page = kept().into_boxed();
        if !letters.is_empty() {
            page = page.filter(documents::name.ilike(holding(letters)));
        }
        if let (Some(after), Some(saved_at)) = (search.after, search.saved_at) {
            let row = documents::table.find(after).select(documents::made);
            let made: i64 = row.first(&mut connection).optional()?.unwrap_or(i64::MAX);
            let older = documents::updated_at.eq(saved_at).and(documents::made.lt(made));
            page = page.filter(documents::updated_at.lt(saved_at).or(older));
        }
        let sorted = page.order((documents::updated_at.desc(), documents::made.desc())).limit(PAGE + 1);
        let mut documents: Vec<Summary> = sorted.select(Summary::as_select()).load(&mut connection)?;
        let most = usize::try_from(PAGE).unwrap_or(0);
        let goes_on = documents.len() > most;
        documents.truncate(most);
        Ok(Page { documents, goes_on, total })
    }

    /// One document.
    ///
    /// # Errors
    /// [`StoreError::NotFound`], and those of the database.
    pub fn read<D: Document>(&self, id: i64) -> Result<Saved, StoreError> {
        let row = documents::table.filter(documents::id.eq(id)).filter(documents::kind.eq(D::KIND));
        let kept = row.filter(documents::deleted_at.is_null()).select(Saved::as_select());
        kept.first(&mut self.connection()?).optional()?.map(as_file::<D>).ok_or(missing::<D>(id))
    }

    /// Saves a new document.
    ///
    /// # Errors
    /// Refuses a bad name, a bad document and one too many; those of the database.
    pub fn create<D: Document>(&self, name: &str, document: &D) -> Result<Saved, StoreError> {
        let name = checked_name(name)?;
        let document = kept(document)?;
        self.look_for_room(0)?;
        let mut connection = self.connection()?;
        // What is deleted does not count.
        let there = documents::deleted_at.is_null();
        let of_kind = documents::table.filter(documents::kind.eq(D::KIND)).filter(there);
        let count: i64 = of_kind.count().get_result(&mut connection)?;
        if count >= MOST_DOCUMENTS {
            let accepted = format!("at most {MOST_DOCUMENTS} of a kind");
            return Err(Refusal::new(format!("{} to be saved", D::KIND), "one too many", accepted).into());
        }
        let values =
            (documents::kind.eq(D::KIND), documents::name.eq(name), documents::document.eq(document));
        let saved = diesel::insert_into(documents::table).values(values).returning(Saved::as_returning());
        Ok(as_file::<D>(saved.get_result(&mut connection)?))
    }

    /// Saves a document again, or only renames it where none is given.
    ///
    /// # Errors
    /// [`StoreError::Stale`] if it was saved since `revision`, [`StoreError::Shipped`] for demo data, [`StoreError::NotFound`];
    /// refuses a bad name or document; those of the database.
    pub fn update<D: Document>(
        &self,
        id: i64,
        revision: i32,
        name: &str,
        document: Option<&D>,
    ) -> Result<Saved, StoreError> {
        let name = checked_name(name)?;
        let document = document.map(kept).transpose()?;
        self.look_for_room(0)?;
        let change = (
            documents::name.eq(name),
            document.map(|document| documents::document.eq(document)),
            documents::revision.eq(documents::revision + 1),
            documents::updated_at.eq(diesel::dsl::now),
        );
        let own = seen(D::KIND, id, revision).filter(documents::shipped.eq(false));
        let saved = diesel::update(own).set(change).returning(Saved::as_returning());
        let saved = saved.get_result(&mut self.connection()?).optional()?;
        saved.map(as_file::<D>).map_or_else(|| Err(self.why_not::<D>(id, revision)), Ok)
    }

    /// Deletes a document; [`Store::restore`] takes it back.
    ///
    /// # Errors
    /// As [`Store::update`].
    pub fn delete<D: Document>(&self, id: i64, revision: i32) -> Result<(), StoreError> {
        let deleted = diesel::update(seen(D::KIND, id, revision)).set(documents::deleted_at.eq(Utc::now()));
        match deleted.execute(&mut self.connection()?)? {
            0 => Err(self.why_not::<D>(id, revision)),
            _ => Ok(()),
        }
    }

    /// Takes back a deletion.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] if the document never was; those of the database.
    pub fn restore<D: Document>(&self, id: i64) -> Result<Saved, StoreError> {
        let row = documents::table.filter(documents::id.eq(id)).filter(documents::kind.eq(D::KIND));
        let never = documents::deleted_at.eq(None::<DateTime<Utc>>);
        let restored = diesel::update(row).set(never).returning(Saved::as_returning());
        restored.get_result(&mut self.connection()?).optional()?.map(as_file::<D>).ok_or(missing::<D>(id))
    }

    /// Why no row fitted: the document is gone, or has moved on.
    fn why_not<D: Document>(&self, id: i64, given: i32) -> StoreError {
        match self.read::<D>(id) {
            Ok(saved) if saved.shipped => StoreError::Shipped(D::KIND),
            Ok(saved) => StoreError::Stale { kind: D::KIND, given, current: saved.revision },
            Err(error) => error,
        }
    }
}
