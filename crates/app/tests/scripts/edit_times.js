// How long it takes from an edit to what it changes on the page, ms: the next picture drawn, what is measured for it, the bend that
// comes first, and the last one of all that are shown.
const done = arguments[0];
const since = (name) =>
  performance.getEntriesByName(`clear-bend ${name}`).filter((e) => e.startTime + e.duration >= window.pressed && e.startTime >= window.pressed - 5);
const end = (e) => (e ? e.startTime + e.duration - window.pressed : null);
const bends = new Map();
for (const e of since("edit to bend")) if (!bends.has(e.detail)) bends.set(e.detail, end(e));
const times = [...bends.values()];
done([
  end(since("draw")[0]),
  end(since("edit to shown")[0]),
  times[0] ?? null,
  times.length ? Math.max(...times) : null,
  times.length,
]);
