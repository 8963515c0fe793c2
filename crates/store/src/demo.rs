//! The demo data: benches from the boatyard at Pellow Slip, an invented place, and the voice of its tide table.

use clear_bend_bench::{BenchDocument, Stem};
use clear_bend_catalogue::Values;
use clear_bend_effects as effects;
use clear_bend_media::{hash, import};
use clear_bend_playing::mix::{Send, Strip};
use clear_bend_playing::path::{Path, PathDocument, Stage};
use clear_bend_signals::design::{DESIGNED, DesignDocument, Placed};
use clear_bend_signals::{LOW_WATER, SENT, SourceDocument};
use diesel::prelude::*;

use crate::StoreError;
use crate::documents::kept;
use crate::schema::{demo_sets, documents};
use crate::{Document, tracks};

/// The spoken tide table; demo/voice.md says where it comes from.
const VOICE: &[u8] = include_bytes!("../demo/voice.flac");
const VOICE_NAME: &str = "Tide table at Pellow Slip, spoken";

/// The set that the voice comes with.
const LOW_WATER_SET: &str = "pellow slip, low water";

type Bench = (&'static str, BenchDocument);

/// Makes the benches of a set.
type MakeSet = fn() -> Result<Vec<Bench>, StoreError>;

/// The sets of demo data, each loaded once. The bench that was loaded last opens first.
const SETS: [(&str, MakeSet); 4] = [
    ("pellow slip, one room", one_room),
    ("pellow slip, boathouse", boathouse),
    (LOW_WATER_SET, low_water),
    ("pellow slip, first light", first_set),
];

/// Loads the demo data that this database never had. What a user deletes stays deleted.
pub fn load_once(connection: &mut PgConnection) -> Result<(), StoreError> {
    for (set, make) in SETS {
        connection.transaction(|connection| {
            let claimed = diesel::insert_into(demo_sets::table)
                .values(demo_sets::name.eq(set))
                .on_conflict_do_nothing()
                .execute(connection)?;
            if claimed == 0 {
                return Ok(());
            }
            if set == LOW_WATER_SET {
                let voice = import(VOICE).map_err(|e| StoreError::Database(e.to_string()))?;
                tracks::keep(connection, VOICE_NAME, &voice)?;
            }
            for (name, document) in make()? {
                let document = kept(&document)?;
                diesel::insert_into(documents::table)
                    .values((
                        documents::kind.eq(BenchDocument::KIND),
                        documents::name.eq(name),
                        documents::document.eq(document),
                        documents::shipped.eq(true),
                    ))
                    .execute(connection)?;
            }
            Ok::<(), StoreError>(())
        })?;
    }
    Ok(())
}

/// A path of effects with some of their parameters.
fn path(stages: &[(&str, &[(&str, f64)])]) -> Result<PathDocument, StoreError> {
    let stage = |(id, params): &(&str, &[(&str, f64)])| {
        let effect =
            effects::find(id).ok_or_else(|| StoreError::Database(format!("there is no effect {id}")))?;
        Ok(Stage::new(effect, params)?)
    };
    Ok(Path { stages: stages.iter().map(stage).collect::<Result<_, StoreError>>()? }.to_document())
}

// The last one saved is listed first.

fn first_set() -> Result<Vec<Bench>, StoreError> {
    let with = |source: Option<&str>, params: &[(&str, f64)]| {
        let mut bench = BenchDocument::fresh();
        let stem = &mut bench.stems[0];
        if let Some(kind) = source {
            stem.source = SourceDocument::of_kind(kind, Values::default());
        }
        for stage in stem.snapshots.iter_mut().flat_map(|path| &mut path.stages) {
            params.iter().for_each(|(id, value)| stage.params.put(id, *value));
        }
        bench
    };
    Ok(vec![
        ("Tone staircase at 4 : 1", with(Some("staircase"), &[("threshold_db", -24.0), ("knee_db", 0.0)])),
        (
            "Low water at Pellow Slip",
            with(None, &[("threshold_db", -18.0), ("attack_ms", 0.2), ("release_ms", 100.0)]),
        ),
    ])
}

/// The stems of the piece in one room: each sends to it by as much as it is far away.
fn one_room() -> Result<Vec<Bench>, StoreError> {
    let mut piece = BenchDocument::fresh();
    piece.stems.clear();
    let room = LOW_WATER.len();
    for ((kind, level_db, pan), send_db) in
        LOW_WATER.into_iter().zip([-16.0, -10.0, -30.0, -7.0, -7.0, -4.0, -2.0])
    {
        let stem = Stem::new(SourceDocument::of_kind(kind, Values::default()), path(&[])?);
        let strip = Strip { level_db, pan, ..Strip::default() };
        piece.stems.push(Stem {
            strip,
            sends: vec![Send { to: room, level_db: send_db, before_strip: false }],
            ..stem
        });
    }
    let mut wet = path(&[("reverb", &[("decay_s", 1.6), ("size_m", 12.0)])])?;
    wet.stages.iter_mut().for_each(|stage| stage.mix = Some(1.0));
    piece.stems.push(Stem::new(SourceDocument::of_kind(SENT, Values::default()), wet));
    piece.work = room;
    piece.listening.all_stems = true;
    piece.view.spotlight = Some("decay_s".to_owned());
    Ok(vec![("Low water in one room", piece)])
}

/// A bench whose source goes through a response alone, another one in each snapshot.
fn through(kind: &str, responses: Vec<SourceDocument>, mix: f64) -> Result<BenchDocument, StoreError> {
    let snapshot = |response: SourceDocument| {
        let mut path = path(&[("convolution", &[])])?;
        for stage in &mut path.stages {
            stage.mix = Some(mix);
            stage.sounds = [("response".to_owned(), response.clone())].into_iter().collect();
        }
        Ok(path)
    };
    let mut bench = BenchDocument::fresh();
    bench.view.spotlight = None;
    bench.stems[0].source = SourceDocument::of_kind(kind, Values::default());
    bench.stems[0].snapshots = responses.into_iter().map(snapshot).collect::<Result<_, StoreError>>()?;
    Ok(bench)
}

fn boathouse() -> Result<Vec<Bench>, StoreError> {
    let shipped = |kind: &str| SourceDocument::of_kind(kind, Values::default());
    let points = |id: &str, points: &[[f64; 2]]| (id.to_owned(), points.to_vec());
    let drawn = DesignDocument {
        curves: [
            points("density_per_s", &[[0.0, 150.0], [0.25, 5000.0]]),
            points("decay_63_s", &[[0.0, 0.9]]),
            points("decay_125_s", &[[0.0, 1.0]]),
            points("decay_250_s", &[[0.0, 1.1]]),
            points("decay_500_s", &[[0.0, 1.1]]),
            points("decay_1000_s", &[[0.0, 1.0]]),
            points("decay_2000_s", &[[0.0, 0.9]]),
            points("decay_4000_s", &[[0.0, 0.7]]),
            points("decay_8000_s", &[[0.0, 0.5]]),
        ]
        .into_iter()
        .collect(),
        placed: vec![
            Placed { at_ms: 4.0, level_db: 0.0, side: -0.6 },
            Placed { at_ms: 7.5, level_db: -2.0, side: 0.6 },
        ],
    };
    let shed = SourceDocument { design: Some(drawn), ..shipped(DESIGNED.id) };
    let cabinets = vec![shipped("response-tall-cabinet"), shipped("response-small-cabinet")];
    Ok(vec![
        (
            "Hits in a shed that was drawn",
            through("slip-hits", vec![shed, shipped("response-net-loft")], 0.4)?,
        ),
        ("A driven wire through a cabinet", through("slip-driven-wire", cabinets, 1.0)?),
    ])
}

fn low_water() -> Result<Vec<Bench>, StoreError> {
    let limiter: (&str, &[(&str, f64)]) = (
        "compressor",
        &[
            ("threshold_db", -12.0),
            ("ratio", f64::INFINITY),
            ("knee_db", 0.0),
            ("attack_ms", 0.0),
            ("release_ms", 60.0),
        ],
    );
    let gain: (&str, &[(&str, f64)]) = ("gain", &[("gain_db", 9.0)]);
    let mut before_or_after = BenchDocument::fresh();
    before_or_after.stems[0].snapshots = vec![path(&[gain, limiter])?, path(&[limiter, gain])?];
    before_or_after.view.spotlight = Some("gain_db".to_owned());

    let voice = || SourceDocument::of_track(&hash(VOICE));
    let levelled = path(&[(
        "compressor",
        &[("threshold_db", -30.0), ("ratio", 4.0), ("attack_ms", 8.0), ("release_ms", 120.0)],
    )])?;
    let mut piece = BenchDocument::fresh();
    piece.stems = vec![Stem {
        strip: Strip { level_db: -2.0, ..Strip::default() },
        ..Stem::new(voice(), levelled.clone())
    }];
    for (kind, level_db, pan) in LOW_WATER {
        let strip = Strip { level_db, pan, ..Strip::default() };
        let stem = Stem::new(SourceDocument::of_kind(kind, Values::default()), path(&[])?);
        piece.stems.push(Stem { strip, ..stem });
    }
    piece.listening.all_stems = true;

    let mut alone = BenchDocument::fresh();
    alone.stems = vec![Stem::new(voice(), levelled)];
    Ok(vec![
        ("Gain before or after a limiter", before_or_after),
        ("Tide table, levelled", alone),
        ("Low water, all stems", piece),
    ])
}
