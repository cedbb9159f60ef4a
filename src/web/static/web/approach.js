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
      view.querySelector(`[data-long="${side}"]`)?.setAttribute("d", `M-4,0 h8 M0,0 V${valve.long} M-4,${valve.long} h8`);
    }
    view.querySelector("[data-throw]")?.setAttribute("transform", `rotate(${frame.turned})`);
    const here = document.querySelector("[data-here]");
    here?.setAttribute("x1", frame.x);
    here?.setAttribute("x2", frame.x);
  };
  const all = () => document.querySelectorAll(".section-view").forEach(show);
  document.addEventListener("input", (event) => {
    const view = event.target.closest?.(".section-view");
    if (view) show(view);
  });
  const turnTo = (view, degrees) => {
    const turn = view.querySelector("[data-turn]");
    turn.value = Math.min(Math.max(Math.round(degrees), Number(turn.min)), Number(turn.max));
    show(view);
  };

  // The crank itself can be dragged about.
  document.addEventListener("pointermove", (event) => {
    const dial = event.buttons ? event.target.closest?.("[data-crank]") : null;
    if (!dial) return;
    const box = dial.querySelector("circle").getBoundingClientRect();
    const [x, y] = [event.clientX - box.x - box.width / 2, event.clientY - box.y - box.height / 2];
    turnTo(dial.closest(".section-view"), (Math.atan2(x, -y) * 180) / Math.PI);
  });

  // Once through on request; where motion is unwanted it jumps to the closest point instead.
  document.addEventListener("click", (event) => {
    const view = event.target.closest?.("[data-play]")?.closest(".section-view");
    if (!view) return;
    const turn = view.querySelector("[data-turn]");
    if (matchMedia("(prefers-reduced-motion: reduce)").matches) return turnTo(view, Number(turn.defaultValue));
    let at = Number(turn.min);
    const step = () => {
      turnTo(view, at);
      at += 1;
      if (at <= Number(turn.max) && view.isConnected) setTimeout(step, 45);
      else turnTo(view, Number(turn.defaultValue));
    };
    step();
  });

  document.addEventListener("DOMContentLoaded", all);
  document.addEventListener("htmx:after:swap", all);
  document.addEventListener("parts:changed", all);
})();
