// The map of two things changed: pointing, tapping or stepping with the arrow keys reads a point, Enter or a click takes it.
(() => {
  const shown = new WeakMap(); // a map to its figures, and to the point in hand

  const of = (map) => {
    if (!shown.has(map)) {
      const data = JSON.parse(map.dataset.map);
      shown.set(map, { data, column: data.x.indexOf("0.0°"), row: 0, in: false });
      const state = shown.get(map);
      const rest = (words) => Math.max(words.findIndex((one) => !/^[+−]/.test(one)), 0);
      state.column = rest(data.x);
      state.row = rest(data.y);
    }
    return shown.get(map);
  };

  const say = (map) => {
    const { data, column, row } = of(map);
    const [left, right, top, bottom] = data.box;
    const at = (share, low, high) => low + share * (high - low);
    const x = at(column / (data.x.length - 1), left, right);
    const y = at(row / (data.y.length - 1), bottom, top);
    const point = map.querySelector("[data-point]");
    point.removeAttribute("hidden");
    point.setAttribute("transform", `translate(${x} ${y})`);
    const left_ = data.left[row][column];
    const clear = data.clear[row][column] ? "clear" : `not clear, by ${data.names[data.by[row][column]]}`;
    map.parentElement.querySelector("[data-says]").textContent =
      `${data.x[column]}, ${data.y[row]}: ${left_ === null ? "not known" : `margin ${left_}`}, ${clear}.`;
  };

  const take = (map) => {
    const { column, row } = of(map);
    location.assign(`${map.dataset.pick}&at=${column}-${row}`);
  };

  const pointed = (event) => {
    const map = event.target.closest?.(".room-map");
    if (!map) return null;
    const state = of(map);
    const box = map.querySelector("svg").getBoundingClientRect();
    const [left, right, top, bottom] = state.data.box;
    const x = ((event.clientX - box.left) / box.width) * 640;
    const y = ((event.clientY - box.top) / box.height) * 440;
    const share = (value, low, high) => Math.min(Math.max((value - low) / (high - low), 0), 1);
    state.column = Math.round(share(x, left, right) * (state.data.x.length - 1));
    state.row = Math.round(share(y, bottom, top) * (state.data.y.length - 1));
    say(map);
    return map;
  };

  document.addEventListener("pointermove", pointed);
  document.addEventListener("click", (event) => {
    const map = pointed(event);
    // A finger reads first: the second tap on the same point takes it.
    if (map && (event.pointerType !== "touch" || of(map).in)) take(map);
    else if (map) of(map).in = true;
  });
  document.addEventListener("keydown", (event) => {
    const map = event.target.closest?.(".room-map");
    if (!map) return;
    const state = of(map);
    const step = event.shiftKey ? 5 : 1;
    const ways = { ArrowLeft: [-step, 0], ArrowRight: [step, 0], ArrowUp: [0, step], ArrowDown: [0, -step] };
    if (event.key === "Enter") return take(map);
    if (!ways[event.key]) return;
    event.preventDefault();
    state.column = Math.min(Math.max(state.column + ways[event.key][0], 0), state.data.x.length - 1);
    state.row = Math.min(Math.max(state.row + ways[event.key][1], 0), state.data.y.length - 1);
    say(map);
  });
})();
