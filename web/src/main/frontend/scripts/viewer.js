// The before/after viewer: one device pixel per image pixel at 100 %, both pictures locked to one place and zoom.

import { apply, fitted, levelling, moved, multiply, placed, resized, rotation, unapply, upright, withAspect } from "./lib/geometry.js";
import { habit, view as kept } from "./lib/kept.js";
import { onKey } from "./lib/keys.js";
import { meanLight } from "./lib/light.js";
import { post, sentence, token } from "./lib/page.js";

(function viewer() {
  const root = document.querySelector("[data-viewer]");
  if (!root) return;
  const pictures = root.dataset.pictures;
  const cards = root.querySelector("[data-steps]"); // only on the bench, where the picture follows the step cards
  const neighbours = root.dataset.viewer === "bench" ? "/frames/" : "/returns/";
  const frameWidth = Number(root.dataset.frameWidth || root.dataset.width),
    frameHeight = Number(root.dataset.frameHeight || root.dataset.height);
  let width = Number(root.dataset.width),
    height = Number(root.dataset.height);
  const stage = root.querySelector("[data-stage]");
  const canvas = stage.querySelector("canvas");
  const inset = root.querySelector("[data-inset]");
  const context = canvas.getContext("2d");
  // Pictures are asked for in blocks of whole cells, as large as what is missing in view, so that little is made that is not seen.
  // A block lies within one of the sensor's canonical tiles.
  const CELL = 128,
    BLOCK = { across: 8, down: 4 },
    MOST_PX = 52e6,
    MOST_OVERVIEWS = 12;
  // Of pictures so small all pixels are asked for at every zoom.
  const SMALL_PX = 10e6;
  // How the picture is turned to stand upright (TIFF's orientation); all places of the view are those of the turned one.
  const turn = Number(root.dataset.orientation || 1),
    lying = turn >= 5;
  const across = () => (lying ? height : width),
    down = () => (lying ? width : height);
  const state = {
    left: "",
    mode: "wipe",
    zoom: 0,
    x: across() / 2,
    y: down() / 2,
    edge: 0.5,
    flipped: false,
    held: false,
    lift: 0,
    red: 0,
    blue: 0,
    shadows: 0,
    contrast: 0,
    saturation: 0,
    marks: false,
    partner: "",
    over: "",
  };
  // How frames were looked at last: the next one is looked at alike, at the same place.
  const TONES = ["shadows", "contrast", "saturation"];
  const REMEMBERED = ["mode", "zoom", "edge", "flipped", "lift", ...TONES, "red", "blue", "marks"];
  const before = kept.get();
  for (const name of REMEMBERED) if (name in before) state[name] = before[name];
  if (before.x >= 0) {
    state.x = before.x * across();
    state.y = before.y * down();
  }
  // What is to be shown is known only when the shape of a changed or enlarged picture is; until then the place stands as a share.
  const place = before.x >= 0 ? [before.x, before.y] : [0.5, 0.5];
  const overviews = new Map(),
    layers = new Map(),
    blocks = new Set(),
    drawn = new Set(),
    seen = new Map(),
    sheets = new Map();
  let scheduled = false,
    problem = "",
    resting = 0,
    heldPx = 0,
    comings = 0;
  // By this number a worker knows whose questions follow each other, and gives up what was asked before.
  let viewerId = Math.floor(Math.random() * 2 ** 48);
  const turns = {};
  // What is asked of the server besides the place: the cards as they stand, or nothing.
  const asked = { before: "", after: "" };

  // A frame that was exposed too low is shown as bright as it is pushed, and lifted from there.
  const push = Math.max(0, Number(root.dataset.push || 0));
  const look = () =>
    "&lift=" +
    Math.min(8, state.lift + push) +
    "&shadows=" +
    state.shadows +
    "&contrast=" +
    state.contrast +
    "&saturation=" +
    state.saturation +
    "&red=" +
    state.red +
    "&blue=" +
    state.blue +
    "&marks=" +
    state.marks;
  // Which picture stands on the left: the plain rendering, or what was chosen to compare with.
  // A picture is named by what it is asked for, a partner with its value: "partner=method:Quick".
  const first = () => (state.partner ? "partner=" + state.partner : "before");
  const path = (which) => which.split("=")[0];
  const question = (which) =>
    which === "before"
      ? asked.before
      : asked.after + (which.startsWith("partner=") ? "&partner=" + encodeURIComponent(which.slice(8)) : "");
  const dpr = () => window.devicePixelRatio || 1;
  const size = () => ({ w: stage.clientWidth, h: stage.clientHeight });
  // Room for the corners of a picture that is turned under its crop.
  const fit = () => Math.min(size().w / across(), size().h / down()) * dpr() * (cropDrawn() ? 0.9 : 1);
  const scale = () => (state.zoom === 0 ? fit() : state.zoom); // device pixels per image pixel

  // From the picture's own places to those shown, at a scale: set upright, and turned by hand while its crop is drawn.
  function turned(s) {
    const W = Math.round(width * s),
      H = Math.round(height * s),
      set = upright(turn, W, H),
      degrees = drawnTurn();
    return degrees ? multiply(set, rotation(degrees, W, H)) : set;
  }
  const toShown = (x, y) => apply(turned(1), x, y);
  const toPicture = (X, Y) => unapply(turned(1), X, Y);
  // The same for places of the crop, which is drawn on the turned picture.
  const cropToShown = (x, y) => apply(upright(turn, width, height), x, y);

  function picture(wanted) {
    // On the bench the draft is the frame as it is, before all steps.
    const which = cards && wanted === "after" ? "before" : wanted,
      key = which + look() + shapeAsked;
    let image = overviews.get(key);
    if (!image) {
      image = new Image();
      image.onload = draw;
      image.onerror = () => {
        problem = "The picture cannot be rendered now: no worker answers.";
        setTimeout(() => {
          overviews.delete(key);
          draw();
        }, 3000); // then it is asked for again
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
    const place = which + look() + "/" + shapeAsked,
      key = place + question(which) + without(which);
    let found = layers.get(key);
    if (!found) {
      if (!seen.has(place)) seen.set(place, new Map());
      found = {
        key,
        which,
        url: pictures + path(which) + "?" + look().slice(1) + question(which) + without(which),
        cells: new Map(),
        seen: seen.get(place),
      };
      layers.set(key, found);
    }
    return found;
  }

  function forget(block) {
    comings++;
    blocks.delete(block);
    heldPx -= block.w * block.h;
    if (!block.ready) {
      block.image.onload = block.image.onerror = null;
      block.image.src = "";
    }
    for (const cell of block.cells) {
      block.layer.cells.delete(cell);
      if (block.layer.seen.get(cell) === block) block.layer.seen.delete(cell);
    }
    if (!block.layer.cells.size) layers.delete(block.layer.key);
  }

  function ask(on, cx, cy, across, down) {
    const x = cx * CELL,
      y = cy * CELL,
      image = new Image();
    const block = {
      layer: on,
      image,
      x,
      y,
      w: Math.min(across * CELL, width - x),
      h: Math.min(down * CELL, height - y),
      cells: [],
      ready: false,
      failed: false,
    };
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
      setTimeout(() => {
        if (blocks.has(block)) {
          forget(block);
          draw();
        }
      }, 2000); // then it is asked for again
    };
    image.src =
      on.url + "&x=" + x + "&y=" + y + "&w=" + block.w + "&h=" + block.h + "&viewer=" + viewerId + "&asked=" + (turns[on.which] || 0);
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
      const end = (Math.floor(cx / BLOCK.across) + 1) * BLOCK.across,
        floor = (Math.floor(cy / BLOCK.down) + 1) * BLOCK.down;
      let across = 1,
        down = 1;
      while (cx + across < end && missing(cx + across, cy)) across++;
      const row = () => {
        for (let i = 0; i < across; i++) if (!missing(cx + i, cy + down)) return false;
        return true;
      };
      while (cy + down < floor && row()) down++;
      ask(on, cx, cy, across, down);
    }
  }

  // What was asked for and is not in view any more is given up; a worker is told by the next turn.
  function forsake() {
    for (const block of blocks)
      if (!block.ready && !block.failed && !drawn.has(block)) {
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
      const past = on.cells.get(cell).ready ? null : on.seen.get(cell),
        x = cx * CELL,
        y = cy * CELL;
      if (!past) continue;
      const w = Math.min(CELL, past.x + past.w - x),
        h = Math.min(CELL, past.y + past.h - y);
      to.drawImage(past.image, x - past.x, y - past.y, w, h, x * s, y * s, w * s, h * s);
    }
    for (const block of inRange(on, view)) if (block.ready) to.drawImage(block.image, block.x * s, block.y * s, block.w * s, block.h * s);
  }

  // The cells of a range at one pixel each; kept until a block comes or goes.
  function gathered(on, view) {
    const made = [on.key, view.x0, view.y0, view.x1, view.y1, comings].join();
    let sheet = sheets.get(on.which);
    if (sheet?.made === made) return sheet.canvas;
    const x = view.x0 * CELL,
      y = view.y0 * CELL;
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
    const originX = Math.round(left + w / 2 - state.x * s),
      originY = Math.round(top + h / 2 - state.y * s);
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
      const l = Math.max(left, from),
        r = Math.min(left + w, to);
      const corners = [corner(l, top), corner(r, top + h), ...(drawnTurn() ? [corner(r, top), corner(l, top + h)] : [])];
      const xs = corners.map((c) => c[0]),
        ys = corners.map((c) => c[1]);
      const cell = (v, most) => Math.min(Math.ceil(most / CELL) - 1, Math.max(0, Math.floor(v / CELL)));
      const x0 = cell(Math.min(...xs), width),
        x1 = cell(Math.max(...xs) - 0.01, width),
        y0 = cell(Math.min(...ys), height),
        y1 = cell(Math.max(...ys) - 0.01, height);
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

  let ground = "";
  const readGround = () => {
    ground = getComputedStyle(stage).backgroundColor;
    draw();
  };
  addEventListener("appearance", readGround);

  function draw() {
    if (scheduled) return;
    scheduled = true;
    requestAnimationFrame(() => {
      scheduled = false;
      render();
    });
  }

  function render() {
    if (!begun) return;
    const { w, h } = size();
    const W = Math.round(w * dpr()),
      H = Math.round(h * dpr());
    if (canvas.width !== W || canvas.height !== H) {
      canvas.width = W;
      canvas.height = H;
    }
    clamp();
    // Until anything is there, the small picture behind shows through.
    if (root.querySelector("[data-draft]")) context.clearRect(0, 0, W, H);
    else {
      context.fillStyle = ground;
      context.fillRect(0, 0, W, H);
    }
    let exact;
    drawn.clear();
    const left = first(),
      shown = state.over || "after";
    let leftTag = state.partner ? chosen("[data-partner]") : "before",
      rightTag = state.over
        ? {
            taken: "what was taken out, four times as strong",
            noise: "noise map: black, noise as strong as the light; white, 8 stops below it",
          }[state.over] || chosen("[data-over]")
        : cards
          ? state.left
            ? "without " + state.left
            : "after"
          : "after · as written";
    if (state.held) {
      exact = paint(left, 0, 0, W, H);
      rightTag = "";
    } else if (state.mode === "wipe") {
      const edge = Math.round(W * state.edge);
      const one = paint(left, 0, 0, W, H, 0, edge),
        other = paint(shown, 0, 0, W, H, edge);
      exact = one && other;
      context.fillStyle = "#ffffff";
      context.fillRect(edge - 1, 0, 2, H);
      context.fillRect(edge - 8, H / 2 - 16, 16, 32);
      context.fillStyle = "#5c5c5c";
      context.fillRect(edge - 3, H / 2 - 8, 1, 16);
      context.fillRect(edge + 2, H / 2 - 8, 1, 16);
    } else if (state.mode === "pair") {
      const half = Math.floor(W / 2);
      const one = paint(left, 0, 0, half - 1, H),
        other = paint(shown, half + 1, 0, W - half - 1, H);
      exact = one && other;
    } else {
      exact = paint(state.flipped ? left : shown, 0, 0, W, H);
      if (state.flipped) rightTag = "";
      else leftTag = "";
    }
    forsake();
    // The small picture stood in until there was something better.
    const draft = root.querySelector("[data-draft]");
    if (draft && picture("after").complete && picture("after").naturalWidth) draft.remove();
    remember();
    tag("[data-left-tag]", leftTag);
    tag("[data-right-tag]", rightTag);
    const percent = Math.round(scale() * 100);
    root.querySelector("[data-status]").textContent =
      problem ||
      percent +
        " %" +
        (state.zoom === 0 ? " fit" : "") +
        " · lift " +
        state.lift +
        (push ? " above a push of " + push : "") +
        " · x " +
        Math.round(state.x).toLocaleString("en") +
        " y " +
        Math.round(state.y).toLocaleString("en") +
        (exact
          ? ""
          : !picture("after").complete
            ? " · opening the frame…"
            : scale() < 0.5 && width * height > SMALL_PX
              ? " · draft, not denoised"
              : " · draft, rendering…");
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

  function remember() {
    if (document.body.classList.contains("alone")) return;
    const values = { x: state.x / across(), y: state.y / down() };
    for (const name of REMEMBERED) values[name] = state[name];
    kept.set(values);
  }

  function tag(selector, value) {
    const element = root.querySelector(selector);
    element.textContent = value;
    element.hidden = value === "";
  }

  function drawInset() {
    const c = inset.getContext("2d"),
      s = Math.min(180 / across(), 120 / down());
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

  function zoomTo(zoom) {
    state.zoom = zoom;
    draw();
  }
  function setMode(mode) {
    state.mode = mode;
    draw();
  }
  function setLift(lift) {
    state.lift = Math.min(4, Math.max(0, lift));
    root.querySelector("[data-lift]").value = state.lift;
    root.querySelector("[data-lift-value]").textContent = state.lift + (state.lift === 1 ? " stop" : " stops");
    draw();
  }

  // What others draw over the picture, and who takes the pointer before the picture is moved.
  const drawnOver = [],
    pointers = [];

  let shapeAsked = "";
  const without = (which) => (which === "after" && state.left ? "&without=" + state.left : "");

  // What was refused: the server says why in plain words.
  async function tellProblem(url) {
    try {
      const answer = await fetch(url);
      if (!answer.ok) problem = await answer.text();
    } catch {
      problem = "The picture cannot be rendered now: no worker answers.";
    }
    draw();
  }

  const GEOMETRY = [
    "shownFactor",
    "shownEdges",
    "on",
    "method",
    "more",
    "optics",
    "lens",
    "distortion",
    "fringes",
    "shading",
    "crop",
    "left",
    "top",
    "width",
    "height",
    "turn",
    "aspect",
  ];
  const valid = new Map();
  // A number that cannot be read, or lies beyond its limits, stays out of what is asked: the last good one stands.
  function checked(name, value) {
    const input = field(name);
    if (input?.type !== "number") return value;
    const n = Number(value);
    const good =
      value !== "" && Number.isFinite(n) && (input.min === "" || n >= Number(input.min)) && (input.max === "" || n <= Number(input.max));
    input.toggleAttribute("aria-invalid", !good);
    if (good) valid.set(name, value);
    return good ? value : (valid.get(name) ?? input.defaultValue);
  }
  function query(names) {
    const values = new URLSearchParams(),
      drawing = cropDrawn();
    for (const [name, value] of new FormData(cards)) {
      if (["_csrf", "version", "target"].includes(name) || (names && !names.includes(name))) continue;
      // While a crop is drawn the whole frame is shown under it, turned here.
      if (drawing && name === "crop") continue;
      if (name === "shownFactor" && (drawing || value === "")) continue;
      values.append(name, checked(name, value));
    }
    // The plain rendering needs all numbers to be there, but not the amounts.
    if (names)
      for (const name of ["grainKept", "colourNoiseKept", "soft", "disc", "line", "angle", "corners", "fine", "coarse", "rim"])
        values.append(name, "0");
    if (!names) values.append("at", root.dataset.at);
    return "&" + values;
  }

  const field = (name) => cards.elements[name];
  const share = (name) => Number(checked(name, field(name).value)) / 100;
  const turnBy = () => Number(checked("turn", field("turn").value));
  // The crop is drawn while its step is open.
  function cropDrawn() {
    return Boolean(cards) && field("crop").checked && !root.querySelector("[data-body=crop]").hidden;
  }
  function drawnTurn() {
    return cropDrawn() ? turnBy() : 0;
  }
  function crop() {
    return { left: share("left"), top: share("top"), width: share("width"), height: share("height") };
  }
  // One that is turned or enlarged is carried out, and stands in the picture itself.
  function cropShown() {
    if (!cards || !field("crop").checked || (!cropDrawn() && (turnBy() !== 0 || field("shownFactor").value !== ""))) return null;
    return crop();
  }

  // Where the crop lies on the canvas, in its pixels; of a turned one the part that will be left.
  function cropBox(W, H) {
    const shown = fitted(cropShown(), drawnTurn(), width, height),
      s = scale();
    const x0 = Math.round(W / 2 - state.x * s),
      y0 = Math.round(H / 2 - state.y * s);
    const [ax, ay] = cropToShown(shown.left * width, shown.top * height),
      [bx, by] = cropToShown((shown.left + shown.width) * width, (shown.top + shown.height) * height);
    return { x: x0 + Math.min(ax, bx) * s, y: y0 + Math.min(ay, by) * s, w: Math.abs(bx - ax) * s, h: Math.abs(by - ay) * s };
  }

  // What lies outside a crop is dimmed; thirds help to place it, and handles show while it is drawn.
  function drawCrop(W, H) {
    if (!cropShown() || state.mode === "pair" || state.held) return;
    const { x, y, w, h } = cropBox(W, H);
    context.fillStyle = ground.replace("rgb(", "rgba(").replace(")", ", 0.7)");
    context.beginPath();
    context.rect(0, 0, W, H);
    context.rect(x, y, w, h);
    context.fill("evenodd");
    context.strokeStyle = "#ffffff";
    context.lineWidth = 1;
    context.strokeRect(x, y, w, h);
    context.globalAlpha = 0.5;
    context.beginPath();
    for (const third of [1 / 3, 2 / 3]) {
      context.moveTo(x + w * third, y);
      context.lineTo(x + w * third, y + h);
      context.moveTo(x, y + h * third);
      context.lineTo(x + w, y + h * third);
    }
    context.stroke();
    context.globalAlpha = 1;
    if (!cropDrawn()) return;
    const arm = 14 * dpr();
    context.lineWidth = 3 * dpr();
    context.beginPath();
    for (const [cx, cy, i, j] of [
      [x, y, 1, 1],
      [x + w, y, -1, 1],
      [x, y + h, 1, -1],
      [x + w, y + h, -1, -1],
    ]) {
      context.moveTo(cx + i * arm, cy);
      context.lineTo(cx, cy);
      context.lineTo(cx, cy + j * arm);
    }
    context.stroke();
    if (level) {
      context.lineWidth = 2 * dpr();
      context.beginPath();
      context.moveTo(level.x0 * dpr(), level.y0 * dpr());
      context.lineTo(level.x1 * dpr(), level.y1 * dpr());
      context.stroke();
    }
  }

  // What of the crop is at a place of the canvas, in CSS pixels: edges as they are shown, or all of it for its inside.
  function cropAt(px, py) {
    if (!cropDrawn() || state.mode === "pair") return null;
    const k = dpr(),
      box = cropBox(size().w * k, size().h * k),
      near = 10;
    const x = box.x / k,
      y = box.y / k,
      r = x + box.w / k,
      b = y + box.h / k;
    if (px < x - near || px > r + near || py < y - near || py > b + near) return null;
    const seen = {
      left: Math.abs(px - x) < near,
      right: Math.abs(px - r) < near,
      top: Math.abs(py - y) < near,
      bottom: Math.abs(py - b) < near,
    };
    if (!Object.values(seen).some(Boolean)) return { inside: true };
    // From edges as shown to those of the frame as it is stored.
    const [a, c, d, e] = upright(turn, 1, 1),
      edges = {};
    const name = (X, Y) => (Math.abs(X) > 0.5 ? (X < 0 ? "left" : "right") : Y < 0 ? "top" : "bottom");
    for (const [side, X, Y] of [
      ["left", -1, 0],
      ["right", 1, 0],
      ["top", 0, -1],
      ["bottom", 0, 1],
    ])
      if (seen[side]) edges[name(a * X + c * Y, d * X + e * Y)] = true;
    return edges;
  }
  const CURSORS = {
    "": "cursor-grab",
    inside: "cursor-move",
    across: "cursor-ew-resize",
    down: "cursor-ns-resize",
    corner: "cursor-nwse-resize",
  };
  function cursorAt(px, py) {
    const at = level !== null || drawingLevel ? null : cropAt(px, py);
    const lies =
      at && !at.inside
        ? (at.left || at.right) && (at.top || at.bottom)
          ? "corner"
          : Boolean(at.left || at.right) !== lying
            ? "across"
            : "down"
        : at
          ? "inside"
          : "";
    for (const name of Object.values(CURSORS)) canvas.classList.toggle(name, name === CURSORS[lies]);
  }

  // Width by height of the aspect, in shares of the frame; 0 for free.
  function ratio() {
    const named = {
      "3:2": 1.5,
      "4:3": 4 / 3,
      "1:1": 1,
      "16:9": 16 / 9,
      "ISO paper": Math.SQRT2,
      camera: Math.max(width, height) / Math.min(width, height),
    }[field("aspect").value];
    return named ? ((width >= height ? named : 1 / named) * height) / width : 0;
  }

  function setCrop(values) {
    const two = (v) => String(Math.round(v * 10000) / 100);
    for (const name of ["left", "top", "width", "height"]) field(name).value = two(values[name]);
  }

  function sizes() {
    const out = root.querySelector("[data-out-size]");
    if (!out) return;
    const part = cropShown() ? fitted(cropShown(), drawnTurn(), width, height) : { width: 1, height: 1 };
    const w = Math.round(width * part.width),
      h = Math.round(height * part.height);
    const px = w.toLocaleString("en") + " × " + h.toLocaleString("en") + " px";
    out.textContent = px;
    root.querySelector("[data-crop-size]").textContent = field("crop").checked
      ? px + "; noted in the return, carried out when turned or enlarged"
      : "switch it on to draw it";
    root.querySelectorAll("[data-ppi]").forEach((line) => {
      const cm = (n) => ((n / Number(line.dataset.ppi)) * 2.54).toFixed(0);
      line.textContent = cm(w) + " × " + cm(h) + " cm at " + line.dataset.ppi + " ppi";
    });
  }

  // The cards were changed: ask for their pictures. Geometry may change the picture's size.
  let asking = 0;
  async function changed(first) {
    cards.querySelectorAll(".mesh").forEach((mesh) => {
      mesh.querySelector("span").textContent = mesh.querySelector("input").checked ? "on" : "off";
    });
    sizes();
    if (!first && !root.querySelector("[data-at-once]").checked) return;
    const mine = ++asking;
    const geometry = query(GEOMETRY);
    if (first || geometry !== asked.before) {
      const answer = await fetch(root.dataset.shape + "?" + query().slice(1));
      if (mine !== asking) return;
      if (!answer.ok) {
        problem = sentence(await answer.text(), "These amounts cannot be shown: check the crop and the numbers.");
        draw();
        return;
      }
      const shape = await answer.json();
      if (shape.width !== width || shape.height !== height) {
        const x = first ? place[0] : state.x / across(),
          y = first ? place[1] : state.y / down();
        width = shape.width;
        height = shape.height;
        state.x = x * across();
        state.y = y * down();
      }
      arrive(first);
      const found = root.querySelector("[data-lens-found]");
      const reported = found.dataset.reported;
      found.textContent =
        shape.lens || (reported ? "▲ " + reported + ": not found; type its name" : "the camera reports no lens: type its name");
      shapeAsked = geometry;
    }
    problem = "";
    asked.before = geometry;
    asked.after = query();
    sizes();
    draw();
  }

  // The sharpest place, in the middle of the view; a frame that tells none keeps its place.
  function toSharpest() {
    if (root.dataset.sharpX === undefined) return false;
    const carriedOut = cards && field("crop").checked && !cropShown();
    const [x, y] = carriedOut
      ? placed(
          Number(root.dataset.sharpX) / frameWidth,
          Number(root.dataset.sharpY) / frameHeight,
          fitted(crop(), turnBy(), frameWidth, frameHeight),
          turnBy(),
          frameWidth,
          frameHeight,
        )
      : [Number(root.dataset.sharpX) / frameWidth, Number(root.dataset.sharpY) / frameHeight];
    [state.x, state.y] = toShown(x * width, y * height);
    if (state.zoom === 0) state.zoom = 2;
    draw();
    return true;
  }
  let arrived = false;
  function arrive(first) {
    if (arrived || !first) return;
    arrived = true;
    if (habit.get("arrive") && state.zoom !== 0) toSharpest();
  }

  if (cards) {
    // While an amount is dragged, the next view is asked for when the last one is there, or after a moment.
    let waiting = 0,
      lastAsked = 0;
    const soon = () => {
      clearTimeout(waiting);
      const busy = [...blocks].some((block) => !block.ready && !block.failed);
      if (busy && performance.now() - lastAsked < 300) waiting = setTimeout(soon, 15);
      else {
        lastAsked = performance.now();
        waiting = setTimeout(changed, 0);
      }
    };
    cards.addEventListener("input", soon);
    cards.addEventListener("change", soon);
    root.querySelector("[data-at-once]").addEventListener("change", soon);
    cards.elements.aspect.addEventListener("change", () => {
      if (field("crop").checked) {
        setCrop(withAspect(crop(), ratio()));
        soon();
      }
    });
    cards.querySelector("[data-whole]").addEventListener("click", () => {
      setCrop(withAspect({ left: 0, top: 0, width: 1, height: 1 }, ratio()));
      cards.dispatchEvent(new Event("change"));
    });
    const levelButton = cards.querySelector("[data-level]");
    levelButton.addEventListener("click", () => {
      field("crop").checked = true;
      setLevelling(!drawingLevel);
      soon();
    });
    root.addEventListener("unfolded", () => {
      setLevelling(false);
      soon();
    });
    const arriveBox = root.querySelector("[data-arrive]");
    arriveBox.checked = Boolean(habit.get("arrive"));
    arriveBox.addEventListener("change", () => {
      habit.set("arrive", arriveBox.checked || null);
      if (arriveBox.checked) toSharpest();
    });
    // One panel at a time.
    const buttons = [...root.querySelectorAll("[data-panel-button]")];
    const panelOf = (button) => document.getElementById(button.dataset.panelButton);
    for (const button of buttons)
      button.addEventListener("click", () => {
        for (const other of buttons) {
          const panel = panelOf(other);
          panel.hidden = other !== button || !panel.hidden;
          other.setAttribute("aria-expanded", !panel.hidden);
        }
        kept.set({ panel: buttons.find((other) => !panelOf(other).hidden)?.dataset.panelButton || "" });
        root.dispatchEvent(new Event("panels"));
        draw();
      });
    if (before.panel && before.panel !== "masks") buttons.find((button) => button.dataset.panelButton === before.panel)?.click();
  }
  // On the bench nothing is asked for before the steps stand as they were left.
  let begun = !cards;
  function begin() {
    begun = true;
    asked.before = query(GEOMETRY);
    asked.after = query();
    changed(true);
  }

  let dragging = null,
    level = null,
    drawingLevel = false;
  function setLevelling(on) {
    drawingLevel = on;
    level = null;
    root.querySelector("[data-level]").setAttribute("aria-pressed", on);
    canvas.classList.toggle("cursor-crosshair", on);
    draw();
  }
  // Two fingers: zoom about their middle.
  const touches = new Map();
  let apart = 0;
  canvas.addEventListener("pointerdown", (event) => {
    canvas.setPointerCapture(event.pointerId);
    if (event.pointerType === "touch") touches.set(event.pointerId, event);
    if (touches.size === 2) {
      apart = spread();
      dragging = null;
      return;
    }
    if (pointers.some((p) => p.down(event))) return;
    if (drawingLevel) {
      level = { x0: event.offsetX, y0: event.offsetY, x1: event.offsetX, y1: event.offsetY };
      return;
    }
    const part = cropAt(event.offsetX, event.offsetY),
      drawn = part && !part.inside;
    const nearEdge = !drawn && state.mode === "wipe" && Math.abs(event.offsetX - size().w * state.edge) < 10;
    dragging = { edge: nearEdge, crop: nearEdge ? null : part, from: part ? crop() : null, x: event.clientX, y: event.clientY };
  });
  const spread = () => {
    const [a, b] = [...touches.values()];
    return Math.hypot(a.clientX - b.clientX, a.clientY - b.clientY);
  };
  canvas.addEventListener("pointermove", (event) => {
    if (touches.has(event.pointerId)) touches.set(event.pointerId, event);
    if (touches.size === 2) {
      const now = spread();
      if (now > apart * 1.4 || now < apart / 1.4) {
        step(now > apart ? 1 : -1);
        apart = now;
      }
      return;
    }
    if (pointers.some((p) => p.move(event))) return;
    if (level) {
      level.x1 = event.offsetX;
      level.y1 = event.offsetY;
      return draw();
    }
    if (!dragging) return cursorAt(event.offsetX, event.offsetY);
    if (dragging.crop) {
      // From where the drag began, so that a hand that goes too far comes back to the same place.
      const s = scale() / dpr(),
        set = upright(turn, width, height);
      const [ax, ay] = unapply(set, 0, 0),
        [bx, by] = unapply(set, (event.clientX - dragging.x) / s, (event.clientY - dragging.y) / s);
      const dx = (bx - ax) / width,
        dy = (by - ay) / height;
      setCrop(dragging.crop.inside ? moved(dragging.from, dx, dy) : resized(dragging.from, dragging.crop, dx, dy, ratio()));
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
  for (const end of ["pointerup", "pointercancel"])
    canvas.addEventListener(end, (event) => {
      touches.delete(event.pointerId);
      if (pointers.some((p) => p.up(event))) return;
      if (level) {
        const dx = level.x1 - level.x0,
          dy = level.y1 - level.y0,
          mirrored = [2, 4, 5, 7].includes(turn);
        if (Math.hypot(dx, dy) > 12) {
          const degrees = turnBy() + (mirrored ? -1 : 1) * levelling(dx, dy);
          field("turn").value = Math.round(100 * Math.max(-45, Math.min(45, degrees))) / 100;
          field("turn").dispatchEvent(new Event("input", { bubbles: true }));
          cards.dispatchEvent(new Event("change"));
        }
        setLevelling(false);
      }
      if (dragging?.crop) cards.dispatchEvent(new Event("change"));
      dragging = null;
    });
  canvas.addEventListener(
    "wheel",
    (event) => {
      event.preventDefault();
      if (event.ctrlKey) return step(event.deltaY < 0 ? 1 : -1);
      state.x += (event.deltaX * dpr()) / scale();
      state.y += (event.deltaY * dpr()) / scale();
      draw();
    },
    { passive: false },
  );
  canvas.addEventListener("dblclick", (event) => {
    if (state.zoom === 0) {
      const s = scale(),
        { w, h } = size();
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

  root.querySelectorAll("[data-mode]").forEach((b) =>
    b.addEventListener("click", () => {
      if (b.dataset.mode === "flip" && state.mode === "flip") state.flipped = !state.flipped;
      setMode(b.dataset.mode);
    }),
  );
  root.querySelectorAll("[data-zoom]").forEach((b) => b.addEventListener("click", () => zoomTo(zooms[Number(b.dataset.zoom)])));
  for (const name of TONES)
    root.querySelector("[data-look=" + name + "]")?.addEventListener("input", (event) => {
      state[name] = Number(event.target.value);
      root.querySelector("[data-look-value=" + name + "]").textContent = state[name] + " %";
      draw();
    });
  // What is known of the frame for looking at it, asked for when a panel is opened; nothing is done where there is nothing.
  function whenLooked(path, then) {
    const ask = async () => {
      const answer = await fetch("/frames/" + root.dataset.frame + path).catch(() => null);
      const told = answer?.ok ? await answer.json() : [];
      if (told.length) then(told);
    };
    if (document.getElementById("view").hidden) root.addEventListener("panels", ask, { once: true });
    else ask();
  }
  // Tones that the shoot will be edited to: strips and bursts are judged with them.
  const keepProof = root.querySelector("[data-proof-keep]");
  if (keepProof) {
    const show = root.querySelector("[data-proof-show]"),
      forget = root.querySelector("[data-proof-forget]"),
      words = root.querySelector("[data-proof-words]");
    let proof;
    const signed = (v) => (v > 0 ? "+" : v < 0 ? "−" : "") + Math.abs(v) + " %";
    const told = (tones) => {
      proof = tones;
      show.hidden = forget.hidden = !proof;
      words.textContent = proof ? TONES.map((name, i) => name + " " + signed(proof[i])).join(", ") : "none kept";
    };
    const keep = async (tones) => {
      const body = new URLSearchParams(TONES.map((name, i) => [name, tones ? tones[i] : 0]));
      const answer = await post("/frames/" + root.dataset.frame + "/proof-look", body).catch(() => null);
      if (!answer?.ok) return (words.textContent = "■ It could not be kept. Try again.");
      told(tones);
    };
    keepProof.addEventListener("click", () => {
      const tones = TONES.map((name) => state[name]);
      if (tones.every((tone) => tone === 0)) words.textContent = "move Shadows, Contrast or Saturation first";
      else keep(tones);
    });
    show.addEventListener("click", () => setTones(proof));
    forget.addEventListener("click", () => keep(undefined));
    told(undefined);
    whenLooked("/proof-look", told);
  }
  function setTones(tones) {
    TONES.forEach((name, i) => (state[name] = tones[i]));
    showTones();
    draw();
  }
  function showTones() {
    for (const name of TONES) {
      const slider = root.querySelector("[data-look=" + name + "]");
      if (!slider) continue;
      slider.value = state[name];
      root.querySelector("[data-look-value=" + name + "]").textContent = state[name] + " %";
    }
  }
  // White for the eye alone: what is clicked on becomes grey.
  const pick = root.querySelector("[data-pick-grey]");
  const picking = (on) => {
    pick.setAttribute("aria-pressed", on);
    stage.classList.toggle("picking", on);
  };
  function setWhite(red, blue, words) {
    const within = (stops) => Math.round(100 * Math.min(3, Math.max(-3, stops))) / 100;
    state.red = within(red);
    state.blue = within(blue);
    const stops = (v) => (v < 0 ? "−" : "+") + Math.abs(v).toFixed(2);
    root.querySelector("[data-white]").textContent =
      words || (state.red || state.blue ? "red " + stops(state.red) + ", blue " + stops(state.blue) + " stops" : "as shot");
    draw();
  }
  if (pick) {
    pick.addEventListener("click", () => picking(pick.getAttribute("aria-pressed") !== "true"));
    root.querySelector("[data-as-shot]").addEventListener("click", () => setWhite(0, 0));
    const sidecar = root.querySelector("[data-as-sidecar]");
    whenLooked("/sidecar-white", (stops) => {
      sidecar.hidden = false;
      sidecar.addEventListener("click", () => setWhite(...stops));
    });
    pointers.push({
      down(event) {
        if (pick.getAttribute("aria-pressed") !== "true") return false;
        picking(false);
        const half = 3,
          at = [event.offsetX * dpr() - half, event.offsetY * dpr() - half].map(Math.round);
        const seen = meanLight(context.getImageData(...at, 2 * half, 2 * half).data);
        if (seen) setWhite(state.red + Math.log2(seen[1] / seen[0]), state.blue + Math.log2(seen[1] / seen[2]));
        else setWhite(state.red, state.blue, "too dark or clipped there: click on another place");
        return true;
      },
      move: () => false,
      up: () => false,
    });
    setWhite(state.red, state.blue);
  }
  root.querySelector("[data-look=marks]")?.addEventListener("change", (event) => {
    state.marks = event.target.checked;
    draw();
  });
  root.querySelector("[data-partner]")?.addEventListener("change", (event) => {
    state.partner = event.target.value;
    draw();
  });
  root.querySelector("[data-over]")?.addEventListener("change", (event) => {
    state.over = event.target.value;
    draw();
  });
  // Two pictures to begin with, as a link asks for them.
  for (const [name, select, key, before] of [
    ["with", "[data-partner]", "partner", ""],
    ["show", "[data-over]", "over", "partner="],
  ]) {
    const choice = before + new URLSearchParams(location.search).get(name),
      field = root.querySelector(select);
    if (field && [...field.options].some((option) => option.value === choice)) field.value = state[key] = choice;
  }
  root.querySelector("[data-lift]").addEventListener("input", (event) => setLift(Number(event.target.value)));

  function go(id) {
    if (!id) return false;
    leave();
    location.href = neighbours + id;
    return true;
  }
  onKey((key, event) => {
    const pan = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[key];
    if (key === " ") {
      state.held = true;
      draw();
      return true;
    }
    if (key === "f" || key === "F") {
      if (state.mode === "flip") state.flipped = !state.flipped;
      setMode("flip");
      return true;
    }
    if (key === "x" || key === "X") return (setMode("wipe"), true);
    if (key === "p" || key === "P") return (setMode("pair"), true);
    if (key === "l" || key === "L") return (setLift(state.lift + (key === "l" ? 0.5 : -0.5)), true);
    if (key === "j" || key === "J") return toSharpest();
    if (key >= "1" && key <= "6") return (zoomTo(zooms[Number(key) - 1]), true);
    if (key === "7") return (toShownSize(), true);
    if (key === "+" || key === "-") return (step(key === "+" ? 1 : -1), true);
    if (pan && event.shiftKey) {
      const shown = viewSize();
      state.x += pan[0] * shown.w * 0.2;
      state.y += pan[1] * shown.h * 0.2;
      draw();
      return true;
    }
    if (key === "ArrowLeft") return go(root.dataset.previous);
    if (key === "ArrowRight") return go(root.dataset.next);
    return false;
  });
  document.addEventListener("keyup", (event) => {
    if (event.key === " " && state.held) {
      state.held = false;
      draw();
    }
  });
  // A list or a slider that was used by hand gives the keys back to the page.
  root.addEventListener("pointerup", (event) => {
    if (event.target.matches("input[type=range], input[type=checkbox], .mesh *, .mesh, [data-mode], [data-zoom]"))
      setTimeout(() => {
        if (document.activeElement !== document.body && !document.activeElement.matches("input[type=number], input[type=text], textarea"))
          document.activeElement.blur();
      });
  });
  new ResizeObserver(draw).observe(stage);
  showTones();
  if (root.querySelector("[data-look=marks]")) root.querySelector("[data-look=marks]").checked = state.marks;
  readGround();
  setLift(state.lift);

  // For the parts of the bench that stand beside the picture.
  const toPicturePx = (px, py) => {
    // from CSS pixels of the stage
    const s = scale() / dpr(),
      { w, h } = size();
    return toPicture(state.x + (px - w / 2) / s, state.y + (py - h / 2) / s);
  };
  const toStage = (x, y) => {
    const s = scale() / dpr(),
      { w, h } = size(),
      [X, Y] = toShown(x, y);
    return [w / 2 + (X - state.x) * s, h / 2 + (Y - state.y) * s];
  };
  // The part of the picture in view, whole pixels.
  function inView() {
    const { w, h } = size();
    const [ax, ay] = toPicturePx(0, 0),
      [bx, by] = toPicturePx(w, h);
    const x = Math.max(0, Math.floor(Math.min(ax, bx))),
      y = Math.max(0, Math.floor(Math.min(ay, by)));
    return { x, y, w: Math.min(width, Math.ceil(Math.max(ax, bx))) - x, h: Math.min(height, Math.ceil(Math.max(ay, by))) - y };
  }
  // Whoever leaves waits for nothing more, here and in the worker. What is pending is given up before the next page is asked
  // for, or it would have to wait for a connection.
  let left = false;
  function leave() {
    if (left) return;
    left = true;
    for (const block of [...blocks]) if (!block.ready) forget(block);
    for (const [key, image] of overviews)
      if (!image.complete) {
        image.onload = image.onerror = null;
        image.src = "";
        overviews.delete(key);
      }
    fetch("/viewers/" + viewerId + "/left", { method: "POST", keepalive: true, headers: { "X-CSRF-TOKEN": token() } });
  }
  addEventListener("beforeunload", leave);
  addEventListener("pagehide", leave);
  window.addEventListener("pageshow", (event) => {
    if (!event.persisted) return;
    left = false;
    viewerId = Math.floor(Math.random() * 2 ** 48);
    draw();
  });
  // A next frame is half there before it is asked for: its page, and its small and reduced pictures.
  let ahead = 0;
  root.addEventListener("rests", () => {
    if (ahead || !root.dataset.next || !cards) return;
    ahead = setTimeout(() => {
      for (const url of ["/frames/" + root.dataset.next + "/thumbnail"]) new Image().src = url;
    }, 300);
  });
  root.sieve = {
    state,
    begin,
    changed: () => changed(),
    toSharpest,
    checked,
    canvas,
    context,
    stage,
    draw,
    scale,
    dpr,
    turned,
    toPicturePx,
    toStage,
    inView,
    drawnOver,
    pointers,
    asked,
    pictureSize: () => ({ width, height }),
    again() {
      changed(true);
    },
    query,
    get viewerId() {
      return viewerId;
    },
  };
})();
