// How long the audio thread's blocks take while a long response is convolved with, and while another one is made: the module of the
// browser in the engine of the browser, without a page. After `cargo xtask web`:
//
//     node scripts/live_blocks.mjs [seconds of the response] [its channels: 1, 2 or 4]
import { readFileSync } from "node:fs";

const RATE_HZ = 48000;
const BLOCK = 128;
const BLOCK_MS = (1000 * BLOCK) / RATE_HZ;
const [seconds, channels] = [Number(process.argv[2] ?? 10), Number(process.argv[3] ?? 4)];

const module = new WebAssembly.Module(readFileSync(new URL("../web/src/generated/wasm/clear_bend_wasm_bg.wasm", import.meta.url)));
const imports = {};
for (const { module: from, name } of WebAssembly.Module.imports(module)) (imports[from] ??= {})[name] = () => {};
const core = new WebAssembly.Instance(module, imports).exports;

function write(Kind, address, from) {
  new Kind(core.memory.buffer, address, from.length).set(from);
}

function sound(frames, of) {
  core.live_room(frames, of);
  for (let channel = 0; channel < of; channel++) {
    for (let at = 0; at < frames; at += 48000) {
      const piece = Float32Array.from({ length: Math.min(48000, frames - at) }, (_, n) => 0.1 * (Math.random() - 0.5) * Math.exp((-3 * (at + n)) / frames));
      write(Float32Array, core.live_piece_room(piece.length), piece);
      core.live_piece_ready(channel);
    }
  }
}

/** Runs blocks; says how long each took, ms. */
function blocks(count) {
  return Array.from({ length: count }, () => {
    const start = performance.now();
    core.live_process(BLOCK);
    return performance.now() - start;
  });
}

function said(what, took) {
  const sorted = took.toSorted((a, b) => a - b);
  const mean = took.reduce((sum, ms) => sum + ms, 0) / took.length;
  const share = (ms) => `${((100 * ms) / BLOCK_MS).toFixed(1)} %`;
  console.log(`${what}: ${share(mean)} of a core; longest block ${share(sorted.at(-1))}, one in a thousand over ${share(sorted[Math.floor(0.999 * sorted.length)])}`);
}

/** The loudest sample that comes out of the next block. */
function heard() {
  core.live_process(BLOCK);
  const out = new Float32Array(core.memory.buffer, core.live_output(0), BLOCK);
  return out.reduce((most, x) => Math.max(most, Math.abs(x)), 0);
}

const lane = () => {
  const path = { stages: [{ effect: "convolution", on: true, mix: 1, params: {}, sounds: { response: { kind: "impulse" } } }] };
  const text = new TextEncoder().encode(JSON.stringify(path));
  write(Uint8Array, core.live_text_room(text.length), text);
  if (!core.live_lane_ready(0)) throw new Error("the path was refused");
};

core.live_new(RATE_HZ, BLOCK);
sound(4 * RATE_HZ, 2);
core.live_source_ready();
core.live_set_playing(1);
const frames = Math.round(seconds * RATE_HZ);
sound(frames, channels);
core.live_sound_ready(0);
lane();
core.live_give_sound(0, 0, 0, 0);
let waited = 0;
const making = [];
while (waited < 4000) {
  const start = performance.now();
  const loud = heard();
  making.push(performance.now() - start);
  if (loud > 1e-5 && waited > 0) break;
  waited++;
}
said(`first response of ${seconds} s on ${channels} channels, heard after ${(waited * BLOCK_MS).toFixed(0)} ms, until then`, making);
blocks(4000);
said("runs", blocks(8000));
sound(frames, channels);
core.live_sound_ready(1);
lane();
core.live_give_sound(1, 0, 0, 0);
said("another one is made, 0.5 s", blocks(188));
