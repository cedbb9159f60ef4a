// Marks in a picture: dragged by finger or mouse, moved by arrow keys; what they say is asked for once they rest.
(() => {
  const RESTS = 250;
  const FURTHER = 10;
  const form = document.getElementById("measure");
  const stage = form?.querySelector(".marks");
  if (!stage) return;
  const { width, height } = stage.viewBox.baseVal;
  const loupe = form.querySelector(".loupe");
  let waiting;

  const field = (name) => form.elements[name];
  const at = (name) => field(name).value.split(",").map(Number);
  const marks = () => [...stage.querySelectorAll("[data-mark]")];
  const within = (value, most) => Math.min(Math.max(value, 1), most - 2);
  const points = (list) => list.map(([x, y]) => `${x.toFixed(1)},${y.toFixed(1)}`).join(" ");

  // The middle of the slice, how it runs, and the direction across it.
  const slice = () => {
    const [first, last] = [at("e0"), at("e1")];
    const way = [last[0] - first[0], last[1] - first[1]];
    const long = Math.hypot(...way) || 1;
    return { first, last, across: [-way[1] / long, way[0] / long], middle: [(first[0] + last[0]) / 2, (first[1] + last[1]) / 2] };
  };

  const draw = () => {
    const scale = width / (stage.clientWidth || width);
    const { first, last, across, middle } = slice();
    const reach = Number(field("reach").value);
    const off = ([x, y], by) => [x + by * across[0], y + by * across[1]];
    for (const mark of marks()) {
      const [x, y] = mark.dataset.mark === "reach" ? off(middle, reach) : at(mark.dataset.mark);
      mark.setAttribute("transform", `translate(${x} ${y}) scale(${scale})`);
      for (const grip of mark.querySelectorAll(".grip")) grip.setAttribute("r", 24);
    }
    stage.querySelector("[data-band]").setAttribute("points", points([off(first, reach), off(last, reach), off(last, -reach), off(first, -reach)]));
    stage.querySelector("[data-outline]").setAttribute("points", points(["p0", "p1", "p2", "p3"].filter(field).map(at)));
  };

  const look = () => {
    clearTimeout(waiting);
    form.dispatchEvent(new Event("live:asks", { bubbles: true }));
    waiting = setTimeout(() => htmx.trigger(form, "look"), RESTS);
  };

  const put = (name, [x, y]) => {
    if (name === "reach") {
      const { across, middle } = slice();
      const far = Math.abs((x - middle[0]) * across[0] + (y - middle[1]) * across[1]);
      field("reach").value = Math.max(far, 8).toFixed(1);
    } else {
      field(name).value = `${within(x, width).toFixed(1)},${within(y, height).toFixed(1)}`;
    }
    draw();
    look();
  };

  const onPicture = ({ clientX, clientY }) => {
    const { x, y } = new DOMPoint(clientX, clientY).matrixTransform(stage.getScreenCTM().inverse());
    return [x, y];
  };

  // The finger hides what it points at: it is shown enlarged beside it.
  const enlarge = ([x, y], { clientX }) => {
    const half = Math.max(width / 30, 40);
    loupe.hidden = false;
    loupe.style.right = clientX > innerWidth / 2 ? "auto" : "12px";
    loupe.style.left = clientX > innerWidth / 2 ? "12px" : "auto";
    loupe.querySelector("svg").setAttribute("viewBox", `${x - half} ${y - half} ${2 * half} ${2 * half}`);
  };

  stage.addEventListener("pointerdown", (event) => {
    const mark = event.target.closest("[data-mark]");
    if (!mark) return;
    event.preventDefault();
    mark.focus();
    stage.setPointerCapture(event.pointerId);
    const move = (moved) => {
      const to = onPicture(moved);
      put(mark.dataset.mark, to);
      enlarge(to, moved);
    };
    const rest = () => {
      loupe.hidden = true;
      stage.removeEventListener("pointermove", move);
    };
    stage.addEventListener("pointermove", move);
    for (const end of ["pointerup", "pointercancel"]) stage.addEventListener(end, rest, { once: true });
  });

  const WAYS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
  stage.addEventListener("keydown", (event) => {
    const { mark } = event.target.closest("[data-mark]")?.dataset ?? {};
    if (!mark) return;
    if (event.key === "Enter") {
      event.preventDefault();
      form.querySelector("[data-take]")?.click();
    }
    const way = WAYS[event.key];
    if (!way) return;
    event.preventDefault();
    const step = event.altKey ? 1 : (width / 400) * (event.shiftKey ? FURTHER : 1);
    if (mark === "reach") {
      const more = (way[0] || -way[1]) * step;
      field("reach").value = Math.max(Number(field("reach").value) + more, 8).toFixed(1);
      draw();
      look();
    } else {
      const [x, y] = at(mark);
      put(mark, [x + way[0] * step, y + way[1] * step]);
    }
  });

  form.addEventListener("input", ({ target }) => "look" in target.dataset && look());
  form.addEventListener("keydown", (event) => {
    // Enter in a length looks; only the button, or a mark, takes.
    if (event.key !== "Enter" || !("look" in event.target.dataset)) return;
    event.preventDefault();
    look();
  });
  // Other marks belong to another reference: the page comes back with them.
  form.addEventListener("change", ({ target }) => "sides" in target.dataset && form.querySelector('[name="look"]').click());
  for (const input of form.querySelectorAll(".numbers input")) input.addEventListener("change", () => { draw(); look(); });
  addEventListener("resize", draw);
  draw();
})();
