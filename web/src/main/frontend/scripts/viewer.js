"use strict";
// The before/after viewer: one device pixel per image pixel at 100 %, both pictures locked to one place and zoom.

(function viewer() {
  const root = document.querySelector("[data-viewer]");
  if (!root) return;
  const pictures = root.dataset.pictures;
  const cards = root.querySelector("[data-steps]"); // only on the bench, where the picture follows the step cards
  const neighbours = root.dataset.viewer === "bench" ? "/frames/" : "/returns/";
  let width = Number(root.dataset.width), height = Number(root.dataset.height);
  const stage = root.querySelector("[data-stage]");
  const canvas = stage.querySelector("canvas");
  const inset = root.querySelector("[data-inset]");
  const context = canvas.getContext("2d");
  // Pictures are asked for in blocks of whole cells, as large as what is missing in view, so that little is made that is not seen.
  // A block lies within one of the sensor's canonical tiles.
  const CELL = 128, BLOCK = { across: 8, down: 4 }, MOST_PX = 52e6, MOST_OVERVIEWS = 12;
  // Of pictures so small all pixels are asked for at every zoom.
  const SMALL_PX = 10e6;
  // How the picture is turned to stand upright (TIFF's orientation); all places of the view are those of the turned one.
  const turn = Number(root.dataset.orientation || 1), lying = turn >= 5;
  const across = () => (lying ? height : width), down = () => (lying ? width : height);
  const state = { left: "", mode: "wipe", zoom: 0, x: across() / 2, y: down() / 2, edge: 0.5, flipped: false, held: false, lift: 0, shadows: 0, contrast: 0, saturation: 0, marks: false, partner: "", over: "" };
  const overviews = new Map(), layers = new Map(), blocks = new Set(), drawn = new Set(), seen = new Map(), sheets = new Map();
  let scheduled = false, problem = "", resting = 0, heldPx = 0, comings = 0;
  // By this number a worker knows whose questions follow each other, and gives up what was asked before.
  let viewerId = Math.floor(Math.random() * 2 ** 48);
  const turns = {};
  // What is asked of the server besides the place: the cards as they stand, or nothing.
  const asked = { before: "", after: "" };

  const look = () => "&lift=" + state.lift + "&shadows=" + state.shadows + "&contrast=" + state.contrast + "&saturation=" + state.saturation + "&marks=" + state.marks;
  // Which picture stands on the left: the plain rendering, or what was chosen to compare with.
  // A picture is named by what it is asked for, a partner with its value: "partner=method:Quick".
  const first = () => (state.partner ? "partner=" + state.partner : "before");
  const path = (which) => which.split("=")[0];
  const question = (which) => (which === "before" ? asked.before : asked.after + (which.startsWith("partner=") ? "&partner=" + encodeURIComponent(which.slice(8)) : ""));
  const dpr = () => window.devicePixelRatio || 1;
  const size = () => ({ w: stage.clientWidth, h: stage.clientHeight });
  const fit = () => Math.min(size().w / across(), size().h / down()) * dpr();
  const scale = () => (state.zoom === 0 ? fit() : state.zoom); // device pixels per image pixel

  // From the picture's own places to those of the turned one, at a scale: a, b, c, d, e, f of a canvas transform.
  function turned(s) {
    const W = Math.round(width * s), H = Math.round(height * s);
    return [[1, 0, 0, 1, 0, 0], [-1, 0, 0, 1, W, 0], [-1, 0, 0, -1, W, H], [1, 0, 0, -1, 0, H],
      [0, 1, 1, 0, 0, 0], [0, 1, -1, 0, H, 0], [0, -1, -1, 0, H, W], [0, -1, 1, 0, 0, W]][turn - 1];
  }
  const toShown = (x, y) => { const [a, b, c, d, e, f] = turned(1); return [a * x + c * y + e, b * x + d * y + f]; };
  // The way back: these matrices have columns of length one at right angles.
  const toPicture = (X, Y) => { const [a, b, c, d, e, f] = turned(1); return [a * (X - e) + b * (Y - f), c * (X - e) + d * (Y - f)]; };

  function picture(wanted) {
    // On the bench the draft is the frame as it is, before all steps.
    const which = cards && wanted === "after" ? "before" : wanted, key = which + look() + shapeAsked;
    let image = overviews.get(key);
    if (!image) {
      image = new Image();
      image.onload = draw;
      image.onerror = () => {
        problem = "The picture cannot be rendered now: no worker answers.";
        setTimeout(() => { overviews.delete(key); draw(); }, 3000); // then it is asked for again
        draw();
      };
      image.src = pictures + path(which) + "?kind=overview" + look() + (which.includes("=") ? question(which) : asked.before);
      overviews.set(key, image);
      if (overviews.size > MOST_OVERVIEWS) overviews.delete(overviews.keys().next().value);
    }
    return image;
  }

  // One picture as the cards and the view stand now: its blocks by cell, and what was last seen in each cell.
  function layer(which) {
    const place = which + look() + "/" + shapeAsked, key = place + question(which) + without(which);
    let found = layers.get(key);
    if (!found) {
      if (!seen.has(place)) seen.set(place, new Map());
      found = { key, which, url: pictures + path(which) + "?" + look().slice(1) + question(which) + without(which), cells: new Map(), seen: seen.get(place) };
      layers.set(key, found);
    }
    return found;
  }

  function forget(block) {
    comings++;
    blocks.delete(block);
    heldPx -= block.w * block.h;
    if (!block.ready) { block.image.onload = block.image.onerror = null; block.image.src = ""; }
    for (const cell of block.cells) {
      block.layer.cells.delete(cell);
      if (block.layer.seen.get(cell) === block) block.layer.seen.delete(cell);
    }
    if (!block.layer.cells.size) layers.delete(block.layer.key);
  }

  function ask(on, cx, cy, across, down) {
    const x = cx * CELL, y = cy * CELL, image = new Image();
    const block = { layer: on, image, x, y, w: Math.min(across * CELL, width - x), h: Math.min(down * CELL, height - y), cells: [], ready: false, failed: false };
    for (let j = 0; j < down; j++) for (let i = 0; i < across; i++) block.cells.push((cy + j) * 65536 + cx + i);
    for (const cell of block.cells) on.cells.set(cell, block);
    image.onload = () => {
      block.ready = true;
      comings++;
      for (const cell of block.cells) on.seen.set(cell, block);
      problem = "";
      draw();
    };
    image.onerror = async () => {
      block.failed = true;
      await tellProblem(image.src);
      setTimeout(() => { if (blocks.has(block)) { forget(block); draw(); } }, 2000); // then it is asked for again
    };
    image.src = on.url + "&x=" + x + "&y=" + y + "&w=" + block.w + "&h=" + block.h + "&viewer=" + viewerId + "&asked=" + (turns[on.which] || 0);
    blocks.add(block);
    heldPx += block.w * block.h;
    for (const eldest of blocks) {
      if (heldPx <= MOST_PX) break;
      if (eldest.ready) forget(eldest);
    }
  }

  // Asks for what is missing of a range of cells, in rectangles.
  function askMissing(on, view) {
    const missing = (cx, cy) => cx <= view.x1 && cy <= view.y1 && !on.cells.has(cy * 65536 + cx);
    for (const [cx, cy] of cellsOf(view)) {
      if (!missing(cx, cy)) continue;
      const end = (Math.floor(cx / BLOCK.across) + 1) * BLOCK.across, floor = (Math.floor(cy / BLOCK.down) + 1) * BLOCK.down;
      let across = 1, down = 1;
      while (cx + across < end && missing(cx + across, cy)) across++;
      const row = () => { for (let i = 0; i < across; i++) if (!missing(cx + i, cy + down)) return false; return true; };
      while (cy + down < floor && row()) down++;
      ask(on, cx, cy, across, down);
    }
  }

  // What was asked for and is not in view any more is given up; a worker is told by the next turn.
  function forsake() {
    for (const block of blocks) if (!block.ready && !block.failed && !drawn.has(block)) {
      forget(block);
      const which = block.layer.which;
      if (![...blocks].some((other) => !other.ready && other.layer.which === which)) turns[which] = (turns[which] || 0) + 1;
    }
  }

  function* cellsOf(view) {
    for (let cy = view.y0; cy <= view.y1; cy++) for (let cx = view.x0; cx <= view.x1; cx++) yield [cx, cy, cy * 65536 + cx];
  }
  function inRange(on, view) {
    const found = new Set();
    for (const [, , cell] of cellsOf(view)) found.add(on.cells.get(cell));
    return found;
  }

  // Where a block is not there yet, what was seen at this place before stays: no flash, no jump.
  function putBlocks(to, on, view, s) {
    for (const [cx, cy, cell] of cellsOf(view)) {
      const past = on.cells.get(cell).ready ? null : on.seen.get(cell), x = cx * CELL, y = cy * CELL;
      if (!past) continue;
      const w = Math.min(CELL, past.x + past.w - x), h = Math.min(CELL, past.y + past.h - y);
      to.drawImage(past.image, x - past.x, y - past.y, w, h, x * s, y * s, w * s, h * s);
    }
    for (const block of inRange(on, view)) if (block.ready) to.drawImage(block.image, block.x * s, block.y * s, block.w * s, block.h * s);
  }

  // The cells of a range at one pixel each; kept until a block comes or goes.
  function gathered(on, view) {
    const made = [on.key, view.x0, view.y0, view.x1, view.y1, comings].join();
    let sheet = sheets.get(on.which);
    if (sheet?.made === made) return sheet.canvas;
    const x = view.x0 * CELL, y = view.y0 * CELL;
    sheet = { made, canvas: new OffscreenCanvas(Math.min(width, (view.x1 + 1) * CELL) - x, Math.min(height, (view.y1 + 1) * CELL) - y) };
    const to = sheet.canvas.getContext("2d");
    to.translate(-x, -y);
    putBlocks(to, on, view, 1);
    sheets.set(on.which, sheet);
    if (sheets.size > 2) sheets.delete(sheets.keys().next().value);
    return sheet.canvas;
  }

  // Draws one picture into a rectangle of the canvas; answers whether every pixel is exact.
  // Only what lies between two columns is shown of it, and asked for.
  function paint(which, left, top, w, h, from = 0, to = Infinity) {
    if (Math.min(left + w, to) <= Math.max(left, from)) return true;
    const s = scale();
    const originX = Math.round(left + w / 2 - state.x * s), originY = Math.round(top + h / 2 - state.y * s);
    context.save();
    context.beginPath();
    context.rect(Math.max(left, from), top, Math.min(left + w, to) - Math.max(left, from), h);
    context.clip();
    context.imageSmoothingEnabled = s < 1;
    const overview = picture(which);
    context.translate(originX, originY);
    context.transform(...turned(s));
    if (overview.complete && overview.naturalWidth) context.drawImage(overview, 0, 0, Math.round(width * s), Math.round(height * s));
    // Below 50 % a draft is enough for large frames.
    const all = s >= 0.5 || width * height <= SMALL_PX;
    let exact = all;
    if (all) {
      const corner = (X, Y) => toPicture((X - originX) / s, (Y - originY) / s);
      const [ax, ay] = corner(Math.max(left, from), top), [bx, by] = corner(Math.min(left + w, to), top + h);
      const cell = (v, most) => Math.min(Math.ceil(most / CELL) - 1, Math.max(0, Math.floor(v / CELL)));
      const x0 = cell(Math.min(ax, bx), width), x1 = cell(Math.max(ax, bx) - 0.01, width), y0 = cell(Math.min(ay, by), height), y1 = cell(Math.max(ay, by) - 0.01, height);
      const on = layer(which);
      const view = { x0, y0, x1, y1 };
      askMissing(on, view);
      for (const block of inRange(on, view)) {
        drawn.add(block);
        blocks.delete(block);
        blocks.add(block); // the one not drawn for longest goes first
        if (!block.ready) exact = false;
      }
      // Below 100 % the blocks are put together before they are reduced: no seams, wherever they meet.
      if (s < 1) {
        const sheet = gathered(on, view);
        context.drawImage(sheet, x0 * CELL * s, y0 * CELL * s, sheet.width * s, sheet.height * s);
      } else putBlocks(context, on, view, s);
    }
    context.restore();
    return exact;
  }

  const chosen = (select) => root.querySelector(select).selectedOptions[0].textContent;

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
    drawn.clear();
    const left = first(), shown = state.over || "after";
    let leftTag = state.partner ? chosen("[data-partner]") : "before", rightTag = state.over ? { taken: "what was taken out, four times as strong", noise: "noise map: black, noise as strong as the light; white, 8 stops below it" }[state.over] || chosen("[data-over]") : cards ? (state.left ? "without " + state.left : "after") : "after · as written";
    if (state.held) {
      exact = paint(left, 0, 0, W, H);
      rightTag = "";
    } else if (state.mode === "wipe") {
      const edge = Math.round(W * state.edge);
      const one = paint(left, 0, 0, W, H, 0, edge), other = paint(shown, 0, 0, W, H, edge);
      exact = one && other;
      context.fillStyle = "#ffffff";
      context.fillRect(edge - 1, 0, 2, H);
      context.fillRect(edge - 8, H / 2 - 16, 16, 32);
      context.fillStyle = "#5c5c5c";
      context.fillRect(edge - 3, H / 2 - 8, 1, 16);
      context.fillRect(edge + 2, H / 2 - 8, 1, 16);
    } else if (state.mode === "pair") {
      const half = Math.floor(W / 2);
      const one = paint(left, 0, 0, half - 1, H), other = paint(shown, half + 1, 0, W - half - 1, H);
      exact = one && other;
    } else {
      exact = paint(state.flipped ? left : shown, 0, 0, W, H);
      if (state.flipped) rightTag = ""; else leftTag = "";
    }
    forsake();
    tag("[data-left-tag]", leftTag);
    tag("[data-right-tag]", rightTag);
    const percent = Math.round(scale() * 100);
    root.querySelector("[data-status]").textContent = problem || percent + " %" + (state.zoom === 0 ? " fit" : "") + " · lift " + state.lift +
      " · x " + Math.round(state.x).toLocaleString("en") + " y " + Math.round(state.y).toLocaleString("en") + (exact ? "" : !picture("after").complete ? " · opening the frame…" : scale() < 0.5 && width * height > SMALL_PX ? " · draft, not denoised" : " · draft, rendering…");
    canvas.dataset.exact = exact;
    clearTimeout(resting);
    // What is measured must not take the cores from what is still to be seen.
    if (exact || scale() < 0.5) resting = setTimeout(() => root.dispatchEvent(new Event("rests")), 300);
    drawCrop(W, H);
    for (const also of drawnOver) also(W, H);
    drawInset();
    root.querySelectorAll("[data-zoom]").forEach((b) => b.setAttribute("aria-pressed", zooms[Number(b.dataset.zoom)] === state.zoom));
    root.querySelectorAll("[data-mode]").forEach((b) => b.setAttribute("aria-pressed", b.dataset.mode === state.mode));
  }

  function tag(selector, value) {
    const element = root.querySelector(selector);
    element.textContent = value;
    element.hidden = value === "";
  }

  function drawInset() {
    const c = inset.getContext("2d"), s = Math.min(180 / across(), 120 / down());
    inset.width = Math.round(across() * s);
    inset.height = Math.round(down() * s);
    inset.hidden = state.zoom === 0;
    const overview = picture("after");
    c.save();
    c.transform(...turned(s));
    if (overview.complete && overview.naturalWidth) c.drawImage(overview, 0, 0, Math.round(width * s), Math.round(height * s));
    c.restore();
    const shown = viewSize();
    c.strokeStyle = "#ffffff";
    c.lineWidth = 1.5;
    c.strokeRect((state.x - shown.w / 2) * s, (state.y - shown.h / 2) * s, shown.w * s, shown.h * s);
  }

  function viewSize() {
    const { w, h } = size();
    const wide = state.mode === "pair" ? w / 2 : w;
    return { w: (wide * dpr()) / scale(), h: (h * dpr()) / scale() };
  }

  function clamp() {
    const shown = viewSize();
    state.x = shown.w >= across() ? across() / 2 : Math.min(across() - shown.w / 2, Math.max(shown.w / 2, state.x));
    state.y = shown.h >= down() ? down() / 2 : Math.min(down() - shown.h / 2, Math.max(shown.h / 2, state.y));
  }

  function zoomTo(zoom) { state.zoom = zoom; draw(); }
  function setMode(mode) { state.mode = mode; draw(); }
  function setLift(lift) {
    state.lift = Math.min(4, Math.max(0, lift));
    root.querySelector("[data-lift]").value = state.lift;
    root.querySelector("[data-lift-value]").textContent = state.lift + (state.lift === 1 ? " stop" : " stops");
    draw();
  }

  // What others draw over the picture, and who takes the pointer before the picture is moved.
  const drawnOver = [], pointers = [];

  let shapeAsked = "";
  const without = (which) => (which === "after" && state.left ? "&without=" + state.left : "");

  // What was refused: the server says why in plain words.
  async function tellProblem(url) {
    try {
      const answer = await fetch(url);
      if (!answer.ok) problem = await answer.text();
    } catch { problem = "The picture cannot be rendered now: no worker answers."; }
    draw();
  }

  const GEOMETRY = ["on", "method", "more", "optics", "lens", "distortion", "fringes", "shading", "crop", "left", "top", "width", "height", "turn", "aspect"];
  function query(names) {
    const values = new URLSearchParams();
    for (const [name, value] of new FormData(cards)) {
      if (!["_csrf", "version", "target"].includes(name) && (!names || names.includes(name))) values.append(name, value);
    }
    // The plain rendering needs all numbers to be there, but not the amounts.
    if (names) for (const name of ["grainKept", "colourNoiseKept", "soft", "disc", "line", "angle", "corners", "fine", "coarse", "rim"]) values.append(name, "0");
    if (!names) values.append("at", root.dataset.at);
    return "&" + values;
  }

  const field = (name) => cards.elements[name];
  function cropShown() {
    if (!cards || !field("crop").checked || Number(field("turn").value) !== 0) return null;
    return { left: Number(field("left").value) / 100, top: Number(field("top").value) / 100, width: Number(field("width").value) / 100, height: Number(field("height").value) / 100 };
  }

  // What lies outside a crop is dimmed; its thirds and diagonals help to place it.
  function drawCrop(W, H) {
    const crop = cropShown();
    if (!crop || state.mode === "pair" || state.held) return;
    const s = scale(), x0 = Math.round(W / 2 - state.x * s), y0 = Math.round(H / 2 - state.y * s);
    const [ax, ay] = toShown(crop.left * width, crop.top * height), [bx, by] = toShown((crop.left + crop.width) * width, (crop.top + crop.height) * height);
    const x = x0 + Math.min(ax, bx) * s, y = y0 + Math.min(ay, by) * s, w = Math.abs(bx - ax) * s, h = Math.abs(by - ay) * s;
    context.fillStyle = "rgb(119 119 119 / .7)";
    context.beginPath();
    context.rect(x0, y0, across() * s, down() * s);
    context.rect(x, y, w, h);
    context.fill("evenodd");
    context.strokeStyle = "#ffffff";
    context.lineWidth = 1;
    context.strokeRect(x, y, w, h);
    context.globalAlpha = 0.5;
    context.beginPath();
    for (const third of [1 / 3, 2 / 3]) {
      context.moveTo(x + w * third, y); context.lineTo(x + w * third, y + h);
      context.moveTo(x, y + h * third); context.lineTo(x + w, y + h * third);
    }
    context.stroke();
    context.globalAlpha = 0.25;
    context.beginPath();
    context.moveTo(x, y); context.lineTo(x + w, y + h);
    context.moveTo(x + w, y); context.lineTo(x, y + h);
    context.stroke();
    context.globalAlpha = 1;
  }

  // Which edges of the crop are near a place of the canvas, in CSS pixels.
  function cropEdges(px, py) {
    const crop = cropShown();
    if (!crop) return null;
    const s = scale() / dpr(), { w, h } = size();
    const x0 = w / 2 - state.x * s, y0 = h / 2 - state.y * s;
    const l = crop.left * width, t = crop.top * height, r = l + crop.width * width, b = t + crop.height * height, near = 8;
    const edge = (x, y, u, v) => {
      const [ax, ay] = toShown(x, y), [bx, by] = toShown(u, v);
      return px > x0 + Math.min(ax, bx) * s - near && px < x0 + Math.max(ax, bx) * s + near && py > y0 + Math.min(ay, by) * s - near && py < y0 + Math.max(ay, by) * s + near;
    };
    const edges = { left: edge(l, t, l, b), right: edge(r, t, r, b), top: edge(l, t, r, t), bottom: edge(l, b, r, b) };
    return edges.left || edges.right || edges.top || edges.bottom ? edges : null;
  }

  function ratio() {
    const named = { "3:2": 1.5, "4:3": 4 / 3, "1:1": 1, "16:9": 16 / 9, "ISO paper": Math.SQRT2, camera: width / height }[field("aspect").value];
    return named ? (width >= height ? named : 1 / named) : 0;
  }

  function setCrop(crop) {
    const two = (v) => String(Math.round(v * 10000) / 100);
    field("left").value = two(crop.left);
    field("top").value = two(crop.top);
    field("width").value = two(crop.width);
    field("height").value = two(crop.height);
  }

  function dragCrop(edges, dx, dy) {
    const c = cropShown();
    let l = c.left, t = c.top, r = c.left + c.width, b = c.top + c.height;
    if (edges.left) l = Math.min(r - 0.05, Math.max(0, l + dx));
    if (edges.right) r = Math.max(l + 0.05, Math.min(1, r + dx));
    if (edges.top) t = Math.min(b - 0.05, Math.max(0, t + dy));
    if (edges.bottom) b = Math.max(t + 0.05, Math.min(1, b + dy));
    setCrop(locked({ left: l, top: t, width: r - l, height: b - t }, edges));
  }

  // Keeps the aspect: the side that was not dragged follows, within the frame.
  function locked(crop, edges) {
    const wanted = ratio();
    if (!wanted) return crop;
    const across = edges.left || edges.right;
    let w = across ? crop.width : (crop.height * height * wanted) / width;
    let h = across ? (crop.width * width) / wanted / height : crop.height;
    const fitting = Math.min(1, (edges.left ? crop.left + crop.width : 1 - crop.left) / w, (edges.top ? crop.top + crop.height : 1 - crop.top) / h);
    w *= fitting;
    h *= fitting;
    return { left: edges.left ? crop.left + crop.width - w : crop.left, top: edges.top ? crop.top + crop.height - h : crop.top, width: w, height: h };
  }

  function sizes() {
    const out = root.querySelector("[data-out-size]");
    if (!out) return;
    const crop = cropShown();
    const w = Math.round(width * (crop ? crop.width : 1)), h = Math.round(height * (crop ? crop.height : 1));
    out.textContent = w.toLocaleString("en") + " × " + h.toLocaleString("en") + " px";
    root.querySelectorAll("[data-ppi]").forEach((row) => {
      const cm = (px) => ((px / Number(row.dataset.ppi)) * 2.54).toFixed(0);
      row.children[1].textContent = cm(w) + " × " + cm(h);
      row.children[2].textContent = cm(2 * w) + " × " + cm(2 * h);
    });
  }

  // The cards were changed: ask for their pictures. Geometry may change the picture's size.
  let asking = 0;
  async function changed(first) {
    cards.querySelectorAll(".mesh").forEach((mesh) => { mesh.querySelector("span").textContent = mesh.querySelector("input").checked ? "on" : "off"; });
    sizes();
    if (!first && !root.querySelector("[data-at-once]").checked) return;
    const mine = ++asking;
    const geometry = query(GEOMETRY);
    if (first || geometry !== asked.before) {
      const answer = await fetch(root.dataset.shape + "?" + query().slice(1));
      if (mine !== asking) return;
      if (!answer.ok) {
        problem = answer.headers.get("content-type")?.startsWith("text/plain") ? await answer.text() : "These amounts cannot be shown: check the crop and the numbers.";
        draw();
        return;
      }
      const shape = await answer.json();
      if (shape.width !== width || shape.height !== height) {
        const x = state.x / across(), y = state.y / down();
        width = shape.width;
        height = shape.height;
        state.x = x * across();
        state.y = y * down();
      }
      const found = root.querySelector("[data-lens-found]");
      const reported = found.dataset.reported;
      found.textContent = shape.lens || (reported ? "▲ " + reported + ": not found; type its name" : "the camera reports no lens: type its name");
      shapeAsked = geometry;
    }
    problem = "";
    asked.before = geometry;
    asked.after = query();
    sizes();
    draw();
  }

  if (cards) {
    // While an amount is dragged, the next view is asked for when the last one is there, or after a moment.
    let waiting = 0, lastAsked = 0;
    const soon = () => {
      clearTimeout(waiting);
      const busy = [...blocks].some((block) => !block.ready && !block.failed);
      if (busy && performance.now() - lastAsked < 300) waiting = setTimeout(soon, 15);
      else { lastAsked = performance.now(); waiting = setTimeout(changed, 0); }
    };
    cards.addEventListener("input", soon);
    cards.addEventListener("change", soon);
    root.querySelector("[data-at-once]").addEventListener("change", soon);
    cards.elements.aspect.addEventListener("change", () => { const crop = cropShown(); if (crop) { setCrop(locked(crop, { right: true })); soon(); } });
    cards.querySelector("[data-suggest]")?.addEventListener("click", (event) => {
      for (const name of ["soft", "disc", "line", "angle", "corners"]) field(name).value = event.target.dataset[name];
      field("sharpen").checked = true;
      soon();
    });
    cards.querySelectorAll("[data-hold]").forEach((title) => {
      title.addEventListener("pointerdown", () => { state.left = title.dataset.hold; draw(); });
      for (const end of ["pointerup", "pointerleave"]) title.addEventListener(end, () => { if (state.left) { state.left = ""; draw(); } });
    });
    // One panel at a time.
    const buttons = [...root.querySelectorAll("[data-panel-button]")];
    const panelOf = (button) => document.getElementById(button.dataset.panelButton);
    for (const button of buttons) button.addEventListener("click", () => {
      for (const other of buttons) {
        const panel = panelOf(other);
        panel.hidden = other !== button || !panel.hidden;
        other.setAttribute("aria-expanded", !panel.hidden);
      }
      root.dispatchEvent(new Event("panels"));
      draw();
    });
    const fold = root.querySelector("[data-fold]");
    fold.addEventListener("click", () => {
      const folded = root.querySelector("[data-cards]").classList.toggle("folded");
      fold.textContent = folded ? "Unfold cards" : "Fold cards";
      fold.setAttribute("aria-expanded", !folded);
    });
    document.addEventListener("keydown", (event) => {
      if (event.target.closest("input, select, textarea, dialog[open]") || event.ctrlKey || event.metaKey || event.altKey) return;
      if (event.key === "b" || event.key === "B") fold.click();
      if (event.key === "t" || event.key === "T") root.querySelector("[data-strip-link]").click();
    });
    asked.before = query(GEOMETRY);
    asked.after = query();
    changed(true);
  }

  let dragging = null;
  // Two fingers: zoom about their middle.
  const touches = new Map();
  let apart = 0;
  canvas.addEventListener("pointerdown", (event) => {
    canvas.setPointerCapture(event.pointerId);
    if (event.pointerType === "touch") touches.set(event.pointerId, event);
    if (touches.size === 2) { apart = spread(); dragging = null; return; }
    if (pointers.some((p) => p.down(event))) return;
    const nearEdge = state.mode === "wipe" && Math.abs(event.offsetX - size().w * state.edge) < 10;
    const edges = nearEdge ? null : cropEdges(event.offsetX, event.offsetY);
    dragging = { edge: nearEdge, crop: edges, x: event.clientX, y: event.clientY };
  });
  const spread = () => { const [a, b] = [...touches.values()]; return Math.hypot(a.clientX - b.clientX, a.clientY - b.clientY); };
  canvas.addEventListener("pointermove", (event) => {
    if (touches.has(event.pointerId)) touches.set(event.pointerId, event);
    if (touches.size === 2) {
      const now = spread();
      if (now > apart * 1.4 || now < apart / 1.4) { step(now > apart ? 1 : -1); apart = now; }
      return;
    }
    if (pointers.some((p) => p.move(event))) return;
    if (!dragging) return;
    if (dragging.crop) {
      const s = scale() / dpr();
      const [ax, ay] = toPicture(0, 0), [bx, by] = toPicture((event.clientX - dragging.x) / s, (event.clientY - dragging.y) / s);
      dragCrop(dragging.crop, (bx - ax) / width, (by - ay) / height);
      dragging.x = event.clientX;
      dragging.y = event.clientY;
      sizes();
    } else if (dragging.edge) state.edge = Math.min(1, Math.max(0, event.offsetX / size().w));
    else {
      state.x -= ((event.clientX - dragging.x) * dpr()) / scale();
      state.y -= ((event.clientY - dragging.y) * dpr()) / scale();
      dragging.x = event.clientX;
      dragging.y = event.clientY;
    }
    draw();
  });
  for (const end of ["pointerup", "pointercancel"]) canvas.addEventListener(end, (event) => {
    touches.delete(event.pointerId);
    if (pointers.some((p) => p.up(event))) return;
    if (dragging?.crop) cards.dispatchEvent(new Event("change"));
    dragging = null;
  });
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
    state.x = (event.offsetX / inset.width) * across();
    state.y = (event.offsetY / inset.height) * down();
    draw();
  });

  const zooms = [0, 0.5, 2 / 3, 1, 2, 4];
  function step(by) {
    const at = zooms.indexOf(state.zoom);
    zoomTo(zooms[Math.min(5, Math.max(0, (at < 0 ? zooms.filter((z) => z < state.zoom).length - (by > 0 ? 1 : 0) : at) + by))]);
  }
  // So large that the long edge takes so many pixels of the screen: as it will be looked at.
  const shownSize = root.querySelector("[data-shown-size]");
  function toShownSize() {
    const wanted = Number(shownSize?.value || 2048);
    zoomTo(Math.min(1, wanted / Math.max(across(), down())));
  }
  shownSize?.addEventListener("change", toShownSize);

  root.querySelectorAll("[data-mode]").forEach((b) => b.addEventListener("click", () => {
    if (b.dataset.mode === "flip" && state.mode === "flip") state.flipped = !state.flipped;
    setMode(b.dataset.mode);
  }));
  root.querySelectorAll("[data-zoom]").forEach((b) => b.addEventListener("click", () => zoomTo(zooms[Number(b.dataset.zoom)])));
  for (const name of ["shadows", "contrast", "saturation"]) root.querySelector("[data-look=" + name + "]")?.addEventListener("input", (event) => {
    state[name] = Number(event.target.value);
    root.querySelector("[data-look-value=" + name + "]").textContent = state[name] + " %";
    draw();
  });
  root.querySelector("[data-look=marks]")?.addEventListener("change", (event) => { state.marks = event.target.checked; draw(); });
  root.querySelector("[data-partner]")?.addEventListener("change", (event) => { state.partner = event.target.value; draw(); });
  root.querySelector("[data-over]")?.addEventListener("change", (event) => { state.over = event.target.value; draw(); });
  // Two pictures to begin with, as a link asks for them.
  for (const [name, select, key, before] of [["with", "[data-partner]", "partner", ""], ["show", "[data-over]", "over", "partner="]]) {
    const choice = before + new URLSearchParams(location.search).get(name), field = root.querySelector(select);
    if (field && [...field.options].some((option) => option.value === choice)) field.value = state[key] = choice;
  }
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
    else if (key === "7") toShownSize();
    else if (key === "+") step(1);
    else if (key === "-") step(-1);
    else if (pan && event.shiftKey) {
      const shown = viewSize();
      state.x += pan[0] * shown.w * 0.2;
      state.y += pan[1] * shown.h * 0.2;
      event.preventDefault();
      draw();
    } else if (key === "ArrowLeft" && root.dataset.previous) location.href = neighbours + root.dataset.previous;
    else if (key === "ArrowRight" && root.dataset.next) location.href = neighbours + root.dataset.next;
  });
  document.addEventListener("keyup", (event) => { if (event.key === " ") { state.held = false; draw(); } });
  new ResizeObserver(draw).observe(stage);
  setLift(0);

  // For the parts of the bench that stand beside the picture.
  const toPicturePx = (px, py) => { // from CSS pixels of the stage
    const s = scale() / dpr(), { w, h } = size();
    return toPicture(state.x + (px - w / 2) / s, state.y + (py - h / 2) / s);
  };
  const toStage = (x, y) => {
    const s = scale() / dpr(), { w, h } = size(), [X, Y] = toShown(x, y);
    return [w / 2 + (X - state.x) * s, h / 2 + (Y - state.y) * s];
  };
  // The part of the picture in view, whole pixels.
  function inView() {
    const { w, h } = size();
    const [ax, ay] = toPicturePx(0, 0), [bx, by] = toPicturePx(w, h);
    const x = Math.max(0, Math.floor(Math.min(ax, bx))), y = Math.max(0, Math.floor(Math.min(ay, by)));
    return { x, y, w: Math.min(width, Math.ceil(Math.max(ax, bx))) - x, h: Math.min(height, Math.ceil(Math.max(ay, by))) - y };
  }
  // Whoever leaves waits for nothing more, here and in the worker; a page that the browser brings back asks anew.
  window.addEventListener("pagehide", () => {
    for (const block of [...blocks]) if (!block.ready) forget(block);
    fetch("/viewers/" + viewerId + "/left", { method: "POST", keepalive: true, headers: { "X-CSRF-TOKEN": document.querySelector("meta[name=csrf]").content } });
  });
  window.addEventListener("pageshow", (event) => {
    if (!event.persisted) return;
    viewerId = Math.floor(Math.random() * 2 ** 48);
    draw();
  });
  root.sieve = { state, canvas, context, stage, draw, scale, dpr, turned, toPicturePx, toStage, inView, drawnOver, pointers, asked, pictureSize: () => ({ width, height }), again() { changed(true); }, query, get viewerId() { return viewerId; } };
})();
