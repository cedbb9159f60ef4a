// Turning the crank of the drawing: chooses one of the frames the server computed; it reckons nothing itself.
(() => {
  const show = (view) => {
    const frames = JSON.parse(view.dataset.frames);
    const turn = view.querySelector("[data-turn]");
    const frame = frames[Number(turn.value) - Number(view.dataset.first)];
    if (!frame) return;
    view.querySelector("[data-angle]").textContent = frame.deg;
    view.querySelector("[data-crown]").setAttribute("transform", `translate(0 ${frame.crown})`);
    for (const [side, valve] of Object.entries(frame.valves)) {
      view.querySelector(`[data-valve="${side}"]`)?.setAttribute("transform", valve.at);
      const gap = view.querySelector(`[data-gap="${side}"]`);
      if (gap) gap.textContent = valve.gap;
    }
    const here = document.querySelector("[data-here]");
    here?.setAttribute("x1", frame.x);
    here?.setAttribute("x2", frame.x);
  };
  const all = () => document.querySelectorAll(".section-view").forEach(show);
  document.addEventListener("input", (event) => {
    const view = event.target.closest?.(".section-view");
    if (view) show(view);
  });
  document.addEventListener("DOMContentLoaded", all);
  document.addEventListener("htmx:after:swap", all);
})();
