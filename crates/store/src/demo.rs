//! The demo data: benches from the boatyard at Pellow Slip, an invented place.

use clear_bend_core::bench::BenchDocument;
use clear_bend_core::catalogue::Number;
use clear_bend_core::signals::SourceDocument;
use diesel::prelude::*;

use crate::StoreError;
use crate::schema::{benches, demo_sets};

/// The name of the first set.
const FIRST_SET: &str = "pellow slip, first light";

/// Loads the demo data if this database never had it. What a user deletes stays deleted.
pub fn load_once(connection: &mut PgConnection) -> Result<(), StoreError> {
    connection.transaction(|connection| {
        let claimed = diesel::insert_into(demo_sets::table)
            .values(demo_sets::name.eq(FIRST_SET))
            .on_conflict_do_nothing()
            .execute(connection)?;
        if claimed == 0 {
            return Ok(());
        }
        for (name, document) in first_set() {
            let document = serde_json::to_value(document).map_err(|e| StoreError::Database(e.to_string()))?;
            diesel::insert_into(benches::table)
                .values((benches::name.eq(name), benches::document.eq(document)))
                .execute(connection)?;
        }
        Ok(())
    })
}

fn first_set() -> [(&'static str, BenchDocument); 2] {
    let with = |source: Option<&str>, params: &[(&str, f64)]| {
        let mut bench = BenchDocument::fresh();
        let stem = &mut bench.stems[0];
        if let Some(kind) = source {
            stem.source = SourceDocument::of_kind(kind, []);
        }
        for stage in stem.snapshots.iter_mut().flat_map(|path| &mut path.stages) {
            stage.params.extend(params.iter().map(|&(id, value)| (id.to_owned(), Number(value))));
        }
        bench
    };
    // The last one saved is listed first.
    [
        ("Tone staircase at 4 : 1", with(Some("staircase"), &[("threshold_db", -24.0), ("knee_db", 0.0)])),
        (
            "Low water at Pellow Slip",
            with(None, &[("threshold_db", -18.0), ("attack_ms", 0.2), ("release_ms", 100.0)]),
        ),
    ]
}
