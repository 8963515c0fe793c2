// Drags a handle round and round for some seconds, a step for every frame of the display, and counts what is drawn.
const [css, seconds, done] = arguments;
const handle = document.querySelector(css);
// The pointer of a script cannot be captured.
handle.setPointerCapture = () => {};
const box = handle.getBoundingClientRect();
const [x, y] = [box.left + box.width / 2, box.top + box.height / 2];
const at = (kind, dx, dy) =>
  handle.dispatchEvent(new PointerEvent(kind, { bubbles: true, pointerId: 1, button: 0, buttons: 1, clientX: x + dx, clientY: y + dy }));
at("pointerdown", 0, 0);
performance.clearMeasures();
const start = performance.now();
let frames = 0;
const step = () => {
  const turn = (performance.now() - start) / 600;
  at("pointermove", 150 * Math.sin(turn), 60 * (1 - Math.cos(turn)));
  frames += 1;
  const gone = (performance.now() - start) / 1000;
  if (gone < seconds) return requestAnimationFrame(step);
  at("pointerup", 0, 0);
  const drawn = (name) => performance.getEntriesByName(`clear-bend ${name}`).length / gone;
  return done([frames / gone, drawn("draw"), drawn("spectrum")]);
};
requestAnimationFrame(step);
