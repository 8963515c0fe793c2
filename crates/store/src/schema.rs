//! The tables, as Diesel sees them. The migrations make them.

diesel::table! {
    demo_sets (name) {
        name -> Text,
        loaded_at -> Timestamptz,
    }
}

diesel::table! {
    documents (id) {
        id -> BigInt,
        made -> BigInt,
        kind -> Text,
        name -> Text,
        document -> Jsonb,
        revision -> Integer,
        shipped -> Bool,
        created_at -> Timestamptz,
        updated_at -> Timestamptz,
        deleted_at -> Nullable<Timestamptz>,
        about -> Nullable<Jsonb>,
    }
}

diesel::table! {
    track_parts (hash, part) {
        hash -> Text,
        part -> Integer,
        flac -> Binary,
    }
}

diesel::table! {
    tracks (hash) {
        hash -> Text,
        name -> Text,
        rate_hz -> Integer,
        channels -> Integer,
        frames -> BigInt,
        peak_dbfs -> Nullable<Double>,
        loudness_lufs -> Nullable<Double>,
        halvings -> Integer,
        created_at -> Timestamptz,
        deleted_at -> Nullable<Timestamptz>,
    }
}
