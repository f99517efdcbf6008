"use strict";
// The before/after viewer: one device pixel per image pixel at 100 %, both pictures locked to one place and zoom.

(function viewer() {
  const root = document.querySelector("[data-viewer]");
  if (!root) return;
  const item = root.dataset.viewer;
  const width = Number(root.dataset.width), height = Number(root.dataset.height);
  const stage = root.querySelector("[data-stage]");
  const canvas = stage.querySelector("canvas");
  const inset = root.querySelector("[data-inset]");
  const context = canvas.getContext("2d");
  const TILE = 512, MAX_TILES = 160;
  const state = { mode: "wipe", zoom: 0, x: width / 2, y: height / 2, edge: 0.5, flipped: false, held: false, lift: 0 };
  const tiles = new Map(), overviews = {};
  let scheduled = false, problem = "";

  const dpr = () => window.devicePixelRatio || 1;
  const size = () => ({ w: stage.clientWidth, h: stage.clientHeight });
  const fit = () => Math.min(size().w / width, size().h / height) * dpr();
  const scale = () => (state.zoom === 0 ? fit() : state.zoom); // device pixels per image pixel

  function picture(which) {
    const key = which + state.lift;
    if (!overviews[key]) {
      const image = new Image();
      image.onload = draw;
      image.onerror = () => { problem = "The picture cannot be rendered now: no worker answers."; draw(); };
      image.src = "/returns/" + item + "/" + which + "?kind=overview&lift=" + state.lift;
      overviews[key] = image;
    }
    return overviews[key];
  }

  function tile(which, tx, ty) {
    const key = which + "/" + state.lift + "/" + tx + "/" + ty;
    let found = tiles.get(key);
    if (!found) {
      const w = Math.min(TILE, width - tx * TILE), h = Math.min(TILE, height - ty * TILE);
      found = { image: new Image(), ready: false };
      found.image.onload = () => { found.ready = true; draw(); };
      found.image.onerror = () => tiles.delete(key);
      found.image.src = "/returns/" + item + "/" + which + "?x=" + tx * TILE + "&y=" + ty * TILE + "&w=" + w + "&h=" + h + "&lift=" + state.lift;
      tiles.set(key, found);
      if (tiles.size > MAX_TILES) {
        const eldest = tiles.keys().next().value;
        tiles.get(eldest).image.src = "";
        tiles.delete(eldest);
      }
    } else {
      tiles.delete(key);
      tiles.set(key, found);
    }
    return found;
  }

  // Draws one picture into a rectangle of the canvas; answers whether every pixel is exact.
  function paint(which, left, top, w, h) {
    const s = scale();
    const originX = Math.round(left + w / 2 - state.x * s), originY = Math.round(top + h / 2 - state.y * s);
    context.save();
    context.beginPath();
    context.rect(left, top, w, h);
    context.clip();
    context.imageSmoothingEnabled = s < 1;
    const overview = picture(which);
    if (overview.complete && overview.naturalWidth) context.drawImage(overview, originX, originY, Math.round(width * s), Math.round(height * s));
    let exact = s >= 0.5;
    if (s >= 0.5) {
      const x0 = Math.max(0, Math.floor((left - originX) / s / TILE)), x1 = Math.min(Math.ceil(width / TILE) - 1, Math.floor((left + w - originX) / s / TILE));
      const y0 = Math.max(0, Math.floor((top - originY) / s / TILE)), y1 = Math.min(Math.ceil(height / TILE) - 1, Math.floor((top + h - originY) / s / TILE));
      for (let ty = y0; ty <= y1; ty++) {
        for (let tx = x0; tx <= x1; tx++) {
          const t = tile(which, tx, ty);
          if (t.ready) context.drawImage(t.image, originX + tx * TILE * s, originY + ty * TILE * s, t.image.naturalWidth * s, t.image.naturalHeight * s);
          else exact = false;
        }
      }
    }
    context.restore();
    return exact;
  }

  function draw() {
    if (scheduled) return;
    scheduled = true;
    requestAnimationFrame(() => { scheduled = false; render(); });
  }

  function render() {
    const { w, h } = size();
    const W = Math.round(w * dpr()), H = Math.round(h * dpr());
    if (canvas.width !== W || canvas.height !== H) { canvas.width = W; canvas.height = H; }
    clamp();
    context.fillStyle = "#777777";
    context.fillRect(0, 0, W, H);
    let exact;
    let leftTag = "before", rightTag = "after · as written";
    if (state.held) {
      exact = paint("before", 0, 0, W, H);
      rightTag = "";
    } else if (state.mode === "wipe") {
      const edge = Math.round(W * state.edge);
      const first = paintClipped("before", 0, edge, W, H), second = paintClipped("after", edge, W, W, H);
      exact = first && second;
      context.fillStyle = "#ffffff";
      context.fillRect(edge - 1, 0, 2, H);
      context.fillRect(edge - 8, H / 2 - 16, 16, 32);
      context.fillStyle = "#5c5c5c";
      context.fillRect(edge - 3, H / 2 - 8, 1, 16);
      context.fillRect(edge + 2, H / 2 - 8, 1, 16);
    } else if (state.mode === "pair") {
      const half = Math.floor(W / 2);
      const first = paint("before", 0, 0, half - 1, H), second = paint("after", half + 1, 0, W - half - 1, H);
      exact = first && second;
    } else {
      exact = paint(state.flipped ? "before" : "after", 0, 0, W, H);
      if (state.flipped) rightTag = ""; else leftTag = "";
    }
    tag("[data-left-tag]", leftTag);
    tag("[data-right-tag]", rightTag);
    const percent = Math.round(scale() * 100);
    root.querySelector("[data-status]").textContent = problem || percent + " %" + (state.zoom === 0 ? " fit" : "") + " · lift " + state.lift +
      " · x " + Math.round(state.x).toLocaleString("en") + " y " + Math.round(state.y).toLocaleString("en") + (exact ? "" : scale() < 0.5 ? " · draft" : " · draft, rendering…");
    canvas.dataset.exact = exact;
    drawInset();
    root.querySelectorAll("[data-zoom]").forEach((b) => b.setAttribute("aria-pressed", zooms[Number(b.dataset.zoom)] === state.zoom));
    root.querySelectorAll("[data-mode]").forEach((b) => b.setAttribute("aria-pressed", b.dataset.mode === state.mode));
  }

  // For the wipe: the same place in both, each shown on its side of the edge.
  function paintClipped(which, from, to, W, H) {
    context.save();
    context.beginPath();
    context.rect(from, 0, to - from, H);
    context.clip();
    const exact = paint(which, 0, 0, W, H);
    context.restore();
    return exact;
  }

  function tag(selector, value) {
    const element = root.querySelector(selector);
    element.textContent = value;
    element.hidden = value === "";
  }

  function drawInset() {
    const c = inset.getContext("2d"), s = Math.min(180 / width, 120 / height);
    inset.width = Math.round(width * s);
    inset.height = Math.round(height * s);
    inset.hidden = state.zoom === 0;
    const overview = picture("after");
    if (overview.complete && overview.naturalWidth) c.drawImage(overview, 0, 0, inset.width, inset.height);
    const shown = viewSize();
    c.strokeStyle = "#ffffff";
    c.lineWidth = 1.5;
    c.strokeRect((state.x - shown.w / 2) * s, (state.y - shown.h / 2) * s, shown.w * s, shown.h * s);
  }

  function viewSize() {
    const { w, h } = size();
    const across = state.mode === "pair" ? w / 2 : w;
    return { w: (across * dpr()) / scale(), h: (h * dpr()) / scale() };
  }

  function clamp() {
    const shown = viewSize();
    state.x = shown.w >= width ? width / 2 : Math.min(width - shown.w / 2, Math.max(shown.w / 2, state.x));
    state.y = shown.h >= height ? height / 2 : Math.min(height - shown.h / 2, Math.max(shown.h / 2, state.y));
  }

  function zoomTo(zoom) { state.zoom = zoom; draw(); }
  function setMode(mode) { state.mode = mode; draw(); }
  function setLift(lift) {
    state.lift = Math.min(4, Math.max(0, lift));
    root.querySelector("[data-lift]").value = state.lift;
    root.querySelector("[data-lift-value]").textContent = state.lift + (state.lift === 1 ? " stop" : " stops");
    draw();
  }

  let dragging = null;
  canvas.addEventListener("pointerdown", (event) => {
    canvas.setPointerCapture(event.pointerId);
    const nearEdge = state.mode === "wipe" && Math.abs(event.offsetX - size().w * state.edge) < 10;
    dragging = { edge: nearEdge, x: event.clientX, y: event.clientY };
  });
  canvas.addEventListener("pointermove", (event) => {
    if (!dragging) return;
    if (dragging.edge) state.edge = Math.min(1, Math.max(0, event.offsetX / size().w));
    else {
      state.x -= ((event.clientX - dragging.x) * dpr()) / scale();
      state.y -= ((event.clientY - dragging.y) * dpr()) / scale();
      dragging.x = event.clientX;
      dragging.y = event.clientY;
    }
    draw();
  });
  canvas.addEventListener("pointerup", () => { dragging = null; });
  canvas.addEventListener("wheel", (event) => {
    event.preventDefault();
    if (event.ctrlKey) return step(event.deltaY < 0 ? 1 : -1);
    state.x += (event.deltaX * dpr()) / scale();
    state.y += (event.deltaY * dpr()) / scale();
    draw();
  }, { passive: false });
  canvas.addEventListener("dblclick", (event) => {
    if (state.zoom === 0) {
      const s = scale(), { w, h } = size();
      state.x += ((event.offsetX - w / 2) * dpr()) / s;
      state.y += ((event.offsetY - h / 2) * dpr()) / s;
      zoomTo(1);
    } else zoomTo(0);
  });
  inset.addEventListener("click", (event) => {
    state.x = (event.offsetX / inset.width) * width;
    state.y = (event.offsetY / inset.height) * height;
    draw();
  });

  const zooms = [0, 0.5, 2 / 3, 1, 2, 4];
  function step(by) { zoomTo(zooms[Math.min(5, Math.max(0, zooms.indexOf(state.zoom) + by))]); }

  root.querySelectorAll("[data-mode]").forEach((b) => b.addEventListener("click", () => {
    if (b.dataset.mode === "flip" && state.mode === "flip") state.flipped = !state.flipped;
    setMode(b.dataset.mode);
  }));
  root.querySelectorAll("[data-zoom]").forEach((b) => b.addEventListener("click", () => zoomTo(zooms[Number(b.dataset.zoom)])));
  root.querySelector("[data-lift]").addEventListener("input", (event) => setLift(Number(event.target.value)));

  document.addEventListener("keydown", (event) => {
    if (event.target.closest("input, select, dialog[open]") || event.ctrlKey || event.metaKey || event.altKey) return;
    const key = event.key;
    const pan = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[key];
    if (key === " ") { state.held = true; event.preventDefault(); draw(); }
    else if (key === "f" || key === "F") { if (state.mode === "flip") state.flipped = !state.flipped; setMode("flip"); }
    else if (key === "x" || key === "X") setMode("wipe");
    else if (key === "p" || key === "P") setMode("pair");
    else if (key === "l") setLift(state.lift + 0.5);
    else if (key === "L") setLift(state.lift - 0.5);
    else if (key >= "1" && key <= "6") zoomTo(zooms[Number(key) - 1]);
    else if (key === "+") step(1);
    else if (key === "-") step(-1);
    else if (pan && event.shiftKey) {
      const shown = viewSize();
      state.x += pan[0] * shown.w * 0.2;
      state.y += pan[1] * shown.h * 0.2;
      event.preventDefault();
      draw();
    } else if (key === "ArrowLeft" && root.dataset.previous) location.href = "/returns/" + root.dataset.previous;
    else if (key === "ArrowRight" && root.dataset.next) location.href = "/returns/" + root.dataset.next;
  });
  document.addEventListener("keyup", (event) => { if (event.key === " ") { state.held = false; draw(); } });
  new ResizeObserver(draw).observe(stage);
  setLift(0);
})();
