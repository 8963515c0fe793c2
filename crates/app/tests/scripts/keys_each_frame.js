// Moves a slider by keys to and fro for some seconds, a step for every frame of the display, and counts what is drawn and measured.
const [css, seconds, done] = arguments;
const slider = document.querySelector(css);
performance.clearMeasures();
const start = performance.now();
let frames = 0;
const step = () => {
  const key = frames % 40 < 20 ? "ArrowRight" : "ArrowLeft";
  slider.dispatchEvent(new KeyboardEvent("keydown", { key, bubbles: true }));
  frames += 1;
  const gone = (performance.now() - start) / 1000;
  if (gone < seconds) return requestAnimationFrame(step);
  const counted = (name) => performance.getEntriesByName(`clear-bend ${name}`).length / gone;
  return done([frames / gone, counted("draw"), counted("edit to shown")]);
};
requestAnimationFrame(step);
