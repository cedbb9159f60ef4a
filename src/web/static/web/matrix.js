// The table of every check: arrow keys go from cell to cell, Enter opens the one in hand beside it.
(() => {
  const WAYS = { ArrowLeft: [0, -1], ArrowRight: [0, 1], ArrowUp: [-1, 0], ArrowDown: [1, 0] };

  document.addEventListener("keydown", (event) => {
    const way = WAYS[event.key];
    const cell = event.target.closest?.("[data-matrix] td");
    if (!way || !cell) return;
    event.preventDefault();
    const rows = [...cell.closest("tbody").rows];
    let row = rows.indexOf(cell.parentElement);
    let column = cell.cellIndex;
    // Past a check that does not exist to the next one that does.
    for (;;) {
      row += way[0];
      column += way[1];
      const there = rows[row]?.cells[column];
      if (!there || column < 1) return;
      const link = there.querySelector("a");
      if (link) return link.focus();
    }
  });

  document.addEventListener("htmx:after:swap", (event) => {
    const source = event.detail?.ctx?.sourceElement;
    if (!source?.closest?.("[data-matrix]")) return;
    for (const one of document.querySelectorAll("[data-matrix] [aria-current]")) one.removeAttribute("aria-current");
    source.setAttribute("aria-current", "true");
  });
})();
