// All frames of a burst at one spot: which is sharp, which is kept.

import { onKey } from "./lib/keys.js";
import { post, text } from "./lib/page.js";

(function burst() {
  const root = document.querySelector("[data-burst-strip]");
  if (!root) return;
  const grid = root.querySelector("[data-burst-grid]"),
    cells = [...grid.querySelectorAll(".burst-cell")],
    width = Number(root.dataset.width),
    height = Number(root.dataset.height);
  // How far the picture is turned to stand upright, in quarters.
  const quarters = { 3: 2, 6: 1, 8: 3 }[root.dataset.orientation] || 0;
  const proof = root.querySelector("[data-proof]");
  const SPOT = "burst-spot";
  let chosen = Math.max(
      0,
      cells.findIndex((cell) => cell.getAttribute("aria-selected") === "true"),
    ),
    zoom = 1,
    own = false,
    generation = 0;

  const share = (cell, name) => (cell.dataset[name] === undefined ? 0.5 : Number(cell.dataset[name]));
  // The place of the bench, where it was left; else where the frame that it was opened from is sharpest.
  const sharp = () => ({ x: share(cells[chosen], "sharpX"), y: share(cells[chosen], "sharpY") });
  let spot = sharp();
  try {
    const kept = JSON.parse(sessionStorage.getItem(SPOT));
    if (kept?.shoot === root.dataset.shoot && kept.ids.includes(cells[chosen].dataset.id)) spot = { x: kept.x, y: kept.y };
  } catch {
    /* begins anew */
  }

  const placeOf = (cell) => (own ? { x: share(cell, "sharpX"), y: share(cell, "sharpY") } : spot);

  function wanted(cell) {
    const box = cell.querySelector(".burst-picture");
    const w = Math.ceil(box.clientWidth / zoom),
      h = Math.ceil(box.clientHeight / zoom);
    return quarters % 2 ? { w: h, h: w } : { w, h };
  }

  function query(cell) {
    const { x, y } = placeOf(cell),
      { w, h } = wanted(cell);
    return "?x=" + x.toFixed(5) + "&y=" + y.toFixed(5) + "&w=" + w + "&h=" + h;
  }

  async function draw() {
    const mine = ++generation;
    for (const cell of cells) cell.querySelector("[data-wait]").hidden = false;
    tellSharpness(mine);
    // The chosen one first, then from its neighbours outwards; two at a time, as many as the worker has hands.
    const order = cells.map((cell, i) => [Math.abs(i - chosen), cell]).sort((p, q) => p[0] - q[0]);
    const next = async () => {
      while (order.length && mine === generation) await show(order.shift()[1], mine);
    };
    await Promise.all([next(), next()]);
    if (mine === generation) tellEvenness(mine);
  }

  function show(cell, mine) {
    return new Promise((done) => {
      const image = cell.querySelector("img"),
        fresh = new Image(),
        { w, h } = wanted(cell);
      fresh.onload = () => {
        if (mine === generation) {
          image.src = fresh.src;
          image.style.width = w * zoom + "px";
          image.style.height = h * zoom + "px";
          image.style.transform = "translate(-50%, -50%) rotate(" + 90 * quarters + "deg)";
          cell.querySelector("[data-wait]").hidden = true;
        }
        done();
      };
      fresh.onerror = () => {
        if (mine === generation) text(cell.querySelector("[data-wait]"), "could not be rendered; open its bench");
        done();
      };
      fresh.src = "/frames/" + cell.dataset.id + "/in-force" + query(cell) + "&proof=" + Boolean(proof?.checked);
    });
  }

  async function tellSharpness(mine) {
    line.fill("");
    tell();
    for (const cell of cells) delete cell.dataset.sharpest;
    const answers = own
      ? await Promise.all(cells.map((cell) => blurs(placeOf(cell)).then((all) => all.find((one) => String(one.id) === cell.dataset.id))))
      : await blurs(spot);
    if (mine !== generation) return;
    const known = answers.filter((one) => one && one.blurPx !== null);
    for (const cell of cells) {
      const told = known.find((one) => String(one.id) === cell.dataset.id);
      cell.dataset.blur = told ? told.blurPx.toFixed(1) : "";
      words(cell);
    }
    if (known.length < 2) return;
    const best = known.reduce((p, q) => (q.blurPx < p.blurPx ? q : p));
    const cell = cells.find((one) => one.dataset.id === String(best.id));
    cell.dataset.sharpest = "yes";
    words(cell);
    tell("sharpest " + (own ? "" : "here ") + cell.dataset.name);
  }

  async function blurs(place) {
    const answer = await fetch("/frames/" + root.dataset.frame + "/burst/sharpness?x=" + place.x + "&y=" + place.y);
    return answer.ok ? answer.json() : [];
  }

  async function tellEvenness(mine) {
    const left = [];
    for (const cell of cells) {
      const answer = await fetch("/frames/" + cell.dataset.id + "/in-force/figures" + query(cell)).catch(() => null);
      if (mine !== generation) return;
      if (answer?.status !== 200) continue;
      const percent = (await answer.json()).measured.noiseLeftPercent;
      cell.dataset.noise = Math.round(percent);
      left.push(percent);
      words(cell);
    }
    if (left.length > 1) tell("", "noise remaining " + Math.round(Math.min(...left)) + " to " + Math.round(Math.max(...left)) + " %");
  }

  const line = ["", ""];
  function tell(...parts) {
    parts.forEach((part, i) => (line[i] = part || line[i]));
    text(root.querySelector("[data-burst-words]"), line.filter(Boolean).join(" · "));
  }

  function words(cell) {
    const { blur, noise, sharpest, mark } = cell.dataset;
    const parts = [];
    if (blur) parts.push((sharpest ? "least blur, " : "blur ") + blur + " px");
    if (noise) parts.push("noise " + noise + " %");
    text(cell.querySelector("[data-figures]"), parts.join(" · "));
    const marked = cell.querySelector("[data-mark-words]");
    text(marked, mark === "keep" ? "kept" : "dropped");
    marked.hidden = !mark;
  }

  function choose(i) {
    chosen = Math.max(0, Math.min(cells.length - 1, i));
    for (const [k, cell] of cells.entries()) {
      cell.setAttribute("aria-selected", k === chosen);
      cell.tabIndex = k === chosen ? 0 : -1;
    }
    cells[chosen].focus({ preventScroll: true });
    cells[chosen].scrollIntoView({ block: "nearest" });
    root.querySelector("[data-burst-bench]").href = "/frames/" + cells[chosen].dataset.id;
  }

  async function mark(pairs) {
    for (const as of ["keep", "drop", "none"]) {
      const of = pairs.filter((pair) => pair[1] === as).map((pair) => pair[0]);
      if (!of.length) continue;
      const body = new URLSearchParams({ mark: as, frames: of.map((cell) => cell.dataset.id).join(",") });
      const answer = await post("/shoots/" + root.dataset.shoot + "/marks", body).catch(() => null);
      if (!answer?.ok) return text(root.querySelector("[data-burst-words]"), "■ The mark could not be kept. Try again.");
      for (const cell of of) {
        cell.dataset.mark = as === "none" ? "" : as;
        words(cell);
      }
    }
  }

  function setZoom(to) {
    zoom = to;
    for (const button of root.querySelectorAll("[data-burst-zooms] button"))
      button.setAttribute("aria-pressed", Number(button.dataset.zoom) === zoom);
    draw();
  }

  function setOwn(to) {
    own = to;
    for (const button of root.querySelectorAll("[data-burst-places] button"))
      button.setAttribute("aria-pressed", (button.dataset.own === "true") === own);
    draw();
  }

  for (const button of root.querySelectorAll("[data-burst-zooms] button"))
    button.addEventListener("click", () => setZoom(Number(button.dataset.zoom)));
  for (const button of root.querySelectorAll("[data-burst-places] button"))
    button.addEventListener("click", () => setOwn(button.dataset.own === "true"));

  proof?.addEventListener("change", draw);

  // Dragging moves the spot in all pictures; a click chooses, two open the bench.
  let drag = null;
  grid.addEventListener("pointerdown", (event) => {
    const cell = event.target.closest(".burst-cell");
    if (!cell || event.button !== 0) return;
    choose(cells.indexOf(cell));
    if (!event.target.closest(".burst-picture")) return;
    drag = { x: event.clientX, y: event.clientY };
    grid.setPointerCapture(event.pointerId);
  });
  const moved = (event) => [event.clientX - drag.x, event.clientY - drag.y];
  grid.addEventListener("pointermove", (event) => {
    if (!drag) return;
    const [dx, dy] = moved(event);
    for (const cell of own ? [] : cells)
      cell.querySelector("img").style.transform =
        "translate(calc(-50% + " + dx + "px), calc(-50% + " + dy + "px)) rotate(" + 90 * quarters + "deg)";
  });
  grid.addEventListener("pointerup", (event) => {
    if (!drag) return;
    const [dx, dy] = moved(event);
    drag = null;
    if (own || Math.hypot(dx, dy) < 3) return;
    // From the picture as it stands to the sensor as it lies.
    const [sx, sy] = [
      [dx, dy],
      [dy, -dx],
      [-dx, -dy],
      [-dy, dx],
    ][quarters];
    const inside = (v) => Math.max(0, Math.min(1, v));
    spot = { x: inside(spot.x - sx / zoom / width), y: inside(spot.y - sy / zoom / height) };
    keepSpot();
    draw();
  });
  grid.addEventListener("pointercancel", () => (drag = null));
  grid.addEventListener("dblclick", () => (location.href = "/frames/" + cells[chosen].dataset.id));

  function keepSpot() {
    try {
      sessionStorage.setItem(SPOT, JSON.stringify({ shoot: root.dataset.shoot, ids: cells.map((cell) => cell.dataset.id), ...spot }));
    } catch {
      /* lasts as long as the page, then */
    }
  }

  const across = () => cells.filter((cell) => cell.offsetTop === cells[0].offsetTop).length;
  onKey((key) => {
    const step = { ArrowRight: 1, ArrowLeft: -1, ArrowDown: across(), ArrowUp: -across() }[key];
    if (step) return (choose(chosen + step), true);
    const zooms = { 4: 1, 5: 2, 6: 4 }[key];
    if (zooms) return (setZoom(zooms), true);
    const cell = cells[chosen];
    switch (key.toLowerCase()) {
      case "q":
        return (mark([[cell, cell.dataset.mark === "keep" ? "none" : "keep"]]), true);
      case "w":
        return (mark([[cell, cell.dataset.mark === "drop" ? "none" : "drop"]]), true);
      case "e":
        return (mark(cells.map((one) => [one, one === cell ? "keep" : "drop"])), true);
      case "j":
        return (setOwn(!own), true);
      case "enter":
        location.href = "/frames/" + cell.dataset.id;
        return true;
    }
    return false;
  });

  let drawnWidth = grid.clientWidth;
  new ResizeObserver(() => {
    if (Math.abs(grid.clientWidth - drawnWidth) < 8) return;
    drawnWidth = grid.clientWidth;
    draw();
  }).observe(grid);
  for (const cell of cells) words(cell);
  choose(chosen);
  draw();
})();
