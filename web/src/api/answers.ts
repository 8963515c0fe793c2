/** What the server answers, as Rust declares it. Written by the tests of the API with `CLEAR_BEND_WRITE=1`. */
import type { ResponseAbout } from "../generated/types/ResponseAbout";

/**
 * A saved document in a list.
 */
export type Summary = { 
/**
 * Identifier, among documents of all kinds: by chance, so that nobody finds another one by counting.
 */
id: number, 
/**
 * Name.
 */
name: string, 
/**
 * Counts the saves.
 */
revision: number, 
/**
 * Whether it is one of the demo data, over which nothing is saved.
 */
shipped: boolean, 
/**
 * When it was last saved.
 */
updated_at: string, 
/**
 * What is said of a response; none of what is no response.
 */
about: ResponseAbout | null, };

/**
 * A saved document.
 */
export type Saved = { 
/**
 * Identifier, among documents of all kinds: by chance, so that nobody finds another one by counting.
 */
id: number, 
/**
 * Name.
 */
name: string, 
/**
 * The document itself, as checked by the core.
 */
document: unknown, 
/**
 * Counts the saves; a save says which one it started from.
 */
revision: number, 
/**
 * Whether it is one of the demo data, over which nothing is saved.
 */
shipped: boolean, 
/**
 * When it was last saved.
 */
updated_at: string, };

/**
 * A kept track, as it stands in a list.
 */
export type Track = { 
/**
 * SHA-256 of the file that was brought.
 */
hash: string, 
/**
 * Name of that file.
 */
name: string, 
/**
 * Its sample rate, Hz.
 */
rate_hz: number, 
/**
 * Its channels.
 */
channels: number, 
/**
 * Samples per channel at the rate of the benches.
 */
frames: number, 
/**
 * Peak level, dBFS; none for silence.
 */
peak_dbfs: number | null, 
/**
 * Integrated loudness, LUFS; none where it is too short or too quiet.
 */
loudness_lufs: number | null, 
/**
 * When it was brought.
 */
created_at: string, };

export type Whereabouts = { 
/**
 * The folder of our own database; none where it is somebody else's.
 */
folder: string | null, 
/**
 * The command that copies all of it into one file.
 */
backup: string | null, };

export type Health = { 
/**
 * Whether the program runs.
 */
status: string, 
/**
 * Whether the database answers.
 */
database: string, };

export type PlaceInLine = { 
/**
 * How many come first; none for who does not wait.
 */
ahead: number | null, };

/**
 * What is handed out: something of the stem at work, or the sum of all with what comes back from shared paths.
 */
export type ExportPart = "before" | "after" | "matched" | "difference" | "sum";

/**
 * Kinds of sound files.
 */
export type SoundFormat = "wav16" | "wav24" | "wav32" | "flac16" | "flac24";

export type Fault = { error: { code: string, message: string, }, };

export const ANSWERS = 1681299059;
