// Masks on the bench: painted on the picture, kept on the server as strokes and settings, shown as hatching.

import { onKey } from "./lib/keys.js";
import { post, sentence } from "./lib/page.js";
import "./bench.js";

(function masks() {
  const root = document.querySelector("[data-viewer=bench]");
  if (!root) return;
  const sieve = root.sieve,
    canvas = sieve.canvas,
    frame = "/frames/" + root.dataset.frame;
  const panel = document.getElementById("masks"),
    list = panel.querySelector("[data-mask-list]"),
    form = panel.querySelector("[data-mask-form]");
  const hint = (words) => {
    panel.querySelector("[data-mask-hint]").textContent = words;
  };
  let all = [],
    ofBook = { masks: [], words: [], line: "", leaves: false },
    inBook = -1, // which of the book's is looked at, instead of one of the frame's own
    chosen = -1,
    tool = "",
    drawn = [],
    pen = null,
    found = [];

  const hatching = panel.querySelector("[data-hatching]");
  hatching.addEventListener("change", () => sieve.draw());

  const HINTS = {
    brush: "Paint on the picture. By keyboard: arrows move the place, Enter begins and ends a stroke.",
    "from a spot": "Click what is to be grown from; Enter takes the marked place.",
    gradient: "Drag from where it is to have no effect to where it is to have all.",
    "round gradient": "Drag from its centre outwards.",
  };

  async function send(url, body) {
    const answer = await post(url, body);
    if (!answer.ok) {
      hint(sentence(await answer.text(), "That could not be kept."));
      return null;
    }
    return answer.json();
  }

  // Those of the book lie under the frame's own.
  const under = () => (ofBook.leaves ? 0 : ofBook.masks.length);
  const looked = () => (inBook >= 0 ? (ofBook.leaves ? -1 : inBook) : chosen < 0 ? -1 : under() + chosen);
  const lookedMask = () => (inBook >= 0 ? ofBook.masks[inBook] : all[chosen]);

  function told(answer) {
    all = answer.masks;
    ofBook = { masks: answer.book, words: answer.bookWords, line: answer.line, leaves: answer.leaves };
    kept = all.length;
    chosen = Math.min(chosen, all.length - 1);
    inBook = Math.min(inBook, ofBook.masks.length - 1);
  }

  // What changes more than the masks of this frame.
  async function changeBook(what) {
    await saving;
    const answer = await send(frame + "/masks/" + what, {});
    if (!answer) return false;
    told(answer);
    if (chosen < 0 && all.length) chosen = 0;
    redraw();
    return true;
  }

  function redraw() {
    root.dataset.at = String(Date.now());
    show();
    sieve.again();
    root.dispatchEvent(new Event("kept-beside"));
    look();
  }

  let saving = Promise.resolve();
  let kept = 0; // how many masks the server knows, and so has pictures of
  function save(next) {
    all = next;
    show();
    saving = saving.then(async () => {
      const taken = await send(frame + "/masks", { masks: next });
      const answer = taken || (await (await fetch(frame + "/masks")).json());
      if (next !== all) return;
      told(answer);
      redraw();
    });
    return saving;
  }

  async function look() {
    const inForce = [...ofBook.masks.slice(0, under()), ...all];
    if (!inForce.some((m) => m.parts.some((p) => p.shape.kind === "in focus" || p.shape.kind === "from a spot"))) {
      found = [];
      return;
    }
    const answer = await fetch(frame + "/masks/found?" + sieve.query().slice(1));
    if (answer.status !== 200) return;
    found = await answer.json();
    show();
    const share = found[looked()];
    if (share !== null && share !== undefined)
      hint(
        share < 0.05
          ? "Nothing was found in this frame: the mask has no effect here."
          : "Found: " +
              (share < 10 ? share.toFixed(1) : Math.round(share)) +
              " % of the frame." +
              (share < 1 ? " That may be no more than rain or grain." : ""),
      );
  }

  const replaced = (mask) => all.map((m, i) => (i === chosen ? mask : m));
  const change = (values) => save(replaced({ ...all[chosen], ...values }));

  function addPart(shape) {
    const join = panel.querySelector("[data-join]").value;
    const mask = all[chosen];
    const last = mask.parts[mask.parts.length - 1];
    // Strokes go on in the brush that is there, as long as they are put on it alike.
    if (shape.kind === "brush" && last?.shape.kind === "brush" && last.join === join) {
      const part = { ...last, shape: { kind: "brush", strokes: [...last.shape.strokes, ...shape.strokes] } };
      return change({ parts: [...mask.parts.slice(0, -1), part] });
    }
    return change({ parts: [...mask.parts, { shape, join, inverted: false }] });
  }

  function begin(kind) {
    tool = ["in focus"].includes(kind) ? "" : kind;
    panel.querySelector("[data-brush]").hidden = tool !== "brush";
    canvas.classList.toggle("cursor-crosshair", tool !== "");
    hint(HINTS[kind] || "");
    if (kind === "in focus") {
      hint("Looking for what is sharp…");
      addPart({ kind: "in focus", limitPx: 2.5 });
    } else if (tool) canvas.focus({ preventScroll: true });
    pen = null;
    sieve.draw();
  }

  const toBook = panel.querySelector("[data-mask-book]");
  toBook.addEventListener("click", async () => {
    const name = all[chosen].name;
    if (await changeBook(chosen + "/to-book"))
      hint("“" + name + "” is in the book now, " + ofBook.line + ": every frame there finds its own. U takes it back.");
  });
  panel.querySelector("[data-book-leave]").addEventListener("click", () => changeBook("leave?leaves=" + !ofBook.leaves));
  panel.querySelector("[data-book-copy]").addEventListener("click", async () => {
    const at = inBook;
    if (!(await changeBook("leave?leaves=true&copies=true"))) return;
    inBook = -1;
    chosen = at;
    show();
  });
  panel.querySelector("[data-book-remove]").addEventListener("click", async () => {
    if (await changeBook(inBook + "/out-of-book")) hint("Taken out of the book, " + ofBook.line + ". U brings it back.");
  });
  for (const button of panel.querySelectorAll("[data-new]"))
    button.addEventListener("click", async () => {
      inBook = -1;
      if (all.length >= 16) return hint("A frame has at most 16 masks. Remove one first.");
      const kind = button.dataset.new;
      chosen = all.length;
      panel.querySelector("[data-join]").value = "ADD";
      await save([...all, { name: kind + " " + (all.length + 1), on: true, parts: [], inverted: false, opacityPercent: 100, amounts: {} }]);
      begin(kind);
    });
  panel.querySelector("[data-next-part]").addEventListener("change", (event) => {
    const kind = event.target.value;
    event.target.value = "";
    if (kind) begin(kind);
  });
  panel.querySelector("[data-mask-copy]").addEventListener("click", () => {
    const copy = { ...all[chosen], name: (all[chosen].name + " copy").slice(0, 60) };
    chosen = all.length;
    save([...all, copy]);
  });
  panel.querySelector("[data-mask-remove]").addEventListener("click", () => {
    const next = all.filter((m, i) => i !== chosen);
    chosen = Math.min(chosen, next.length - 1);
    begin("");
    save(next);
  });
  const burst = panel.querySelector("[data-mask-burst]");
  burst.hidden = root.dataset.burst === "0";
  burst.addEventListener("click", async () => {
    const copied = await send(frame + "/masks/burst", {});
    if (copied)
      hint(
        "Copied to " +
          copied.frames +
          (copied.frames === 1 ? " frame" : " frames") +
          " of this burst; what is found is found anew on each. Undo it on a frame with U.",
      );
  });
  for (const field of panel.querySelectorAll("[data-mask-field]"))
    field.addEventListener("change", () => {
      const name = field.dataset.maskField;
      change({ [name]: field.type === "checkbox" ? field.checked : field.type === "number" ? Number(field.value) : field.value });
    });
  for (const field of panel.querySelectorAll("[data-mask-amount]"))
    field.addEventListener("change", () => {
      change({ amounts: { ...all[chosen].amounts, [field.dataset.maskAmount]: field.value === "" ? null : Number(field.value) } });
      if (field.dataset.maskAmount === "bitePercent" && !root.querySelector("[name=sharpen]").checked)
        hint("Sharpen is off, so its sharpness has no effect yet.");
    });

  function element(name, values, ...inside) {
    const out = document.createElement(name);
    for (const [key, value] of Object.entries(values))
      if (key in out) out[key] = value;
      else out.setAttribute(key, value);
    out.append(...inside);
    return out;
  }

  function show() {
    const count = under() + all.length;
    root.querySelector("[data-mask-count]").textContent = count ? " " + count : "";
    panel.querySelector("[data-no-masks]").hidden = ofBook.masks.length + all.length > 0;
    form.hidden = chosen < 0 || inBook >= 0;
    showBook();
    list.replaceChildren(
      ...all.map((mask, i) => {
        const on = element("input", { type: "checkbox", checked: mask.on, title: "on", "aria-label": mask.name + " on" });
        on.addEventListener("click", (event) => event.stopPropagation());
        on.addEventListener("change", () => {
          chosen = i;
          change({ on: on.checked });
        });
        const row = element(
          "li",
          { className: "mask-row" },
          element(
            "img",
            i < kept && (mask.parts.length || mask.inverted)
              ? { alt: "", src: frame + "/masks/" + (under() + i) + "/strength?edge=96" + sieve.query() }
              : { alt: "" },
          ),
          element("button", { type: "button", textContent: mask.name }),
          on,
        );
        row.setAttribute("aria-current", i === chosen && inBook < 0);
        row.addEventListener("click", () => {
          if (chosen !== i || inBook >= 0) {
            inBook = -1;
            chosen = i;
            begin("");
            show();
            look();
          }
        });
        return row;
      }),
    );
    if (chosen < 0 || inBook >= 0) return sieve.draw();
    const mask = all[chosen];
    toBook.hidden = !mask.parts.length || mask.parts.some((p) => p.shape.kind !== "in focus");
    for (const field of panel.querySelectorAll("[data-mask-field]"))
      if (field !== document.activeElement) {
        if (field.type === "checkbox") field.checked = mask[field.dataset.maskField];
        else field.value = mask[field.dataset.maskField];
      }
    for (const field of panel.querySelectorAll("[data-mask-amount]"))
      if (field !== document.activeElement) field.value = mask.amounts?.[field.dataset.maskAmount] ?? "";
    panel.querySelector("[data-part-list]").replaceChildren(...mask.parts.map((part, k) => partRow(mask, part, k)));
    sieve.draw();
  }

  function showBook() {
    panel.querySelector("[data-book-list]").replaceChildren(
      ...ofBook.masks.map((mask, i) => {
        const row = element(
          "li",
          { className: "mask-row" },
          element("img", ofBook.leaves ? { alt: "" } : { alt: "", src: frame + "/masks/" + i + "/strength?edge=96" + sieve.query() }),
          element("button", { type: "button", textContent: mask.name }),
          element("span", { className: "text-quiet", textContent: ofBook.leaves ? "book, not here" : "book" }),
        );
        row.setAttribute("aria-current", i === inBook);
        row.addEventListener("click", () => {
          inBook = i;
          begin("");
          hint("");
          show();
          look();
        });
        return row;
      }),
    );
    panel.querySelector("[data-book-form]").hidden = inBook < 0;
    if (inBook < 0) return;
    panel.querySelector("[data-book-words]").textContent = ofBook.words[inBook];
    panel.querySelector("[data-book-line]").textContent = ofBook.line;
    panel.querySelector("[data-book-leave]").textContent = ofBook.leaves ? "Take it in this frame again" : "Leave it out in this frame";
    panel.querySelector("[data-book-copy]").hidden = ofBook.leaves;
  }

  function partRow(mask, part, k) {
    const words = { ADD: k ? "and " : "", TAKE: "without ", OVERLAP: "only where " }[part.join];
    const count =
      part.shape.kind === "brush" ? ", " + part.shape.strokes.length + (part.shape.strokes.length === 1 ? " stroke" : " strokes") : "";
    const row = element(
      "li",
      { className: "flex items-center gap-2 py-0.5" },
      element("span", { className: "flex-1", textContent: words + part.shape.kind + count }),
    );
    const with_ = (values) => change({ parts: mask.parts.map((p, i) => (i === k ? { ...p, ...values } : p)) });
    const number = { "in focus": ["limitPx", 0.5, 10, 0.5, "up to blur σ, px"], "from a spot": ["reach", 0.25, 20, 0.25, "reach"] }[
      part.shape.kind
    ];
    if (number) {
      const [name, min, max, , title] = number;
      const field = element("input", { className: "field num", type: "number", value: part.shape[name], min, max, step: "any", title });
      field.setAttribute("aria-label", title);
      field.style.width = "52px";
      field.addEventListener("change", () => with_({ shape: { ...part.shape, [name]: Number(field.value) } }));
      row.append(element("span", { className: "text-quiet", textContent: title }), field);
    }
    const out = element("button", { type: "button", textContent: "not", title: "everything but this part" });
    out.className = "px-1 cursor-pointer " + (part.inverted ? "bg-brass-light" : "text-quiet");
    out.setAttribute("aria-pressed", part.inverted);
    out.addEventListener("click", () => with_({ inverted: !part.inverted }));
    const remove = element("button", { type: "button", textContent: "×", className: "px-1 cursor-pointer text-quiet" });
    remove.setAttribute("aria-label", "Remove this part");
    remove.addEventListener("click", () => change({ parts: mask.parts.filter((p, i) => i !== k) }));
    row.append(out, remove);
    return row;
  }

  // Painting. Places are gathered on the picture as shown; the server tells where they lie on the frame.
  const brush = () => {
    const values = { kind: "brush" };
    for (const field of panel.querySelectorAll("[data-brush-field]"))
      values[field.dataset.brushField] = field.type === "checkbox" ? field.checked : Number(field.value);
    return values;
  };
  async function finish(points) {
    const kind = tool;
    const flat = points.flat().map((v) => Math.round(v * 10) / 10);
    const onFrame = await send(frame + "/masks/place?" + sieve.query().slice(1), flat);
    drawn = [];
    if (!onFrame) return sieve.draw();
    const p = onFrame.map((v) => Math.round(v * 10) / 10);
    if (kind === "brush") {
      const { kind: _, ...settings } = brush();
      addPart({ kind, strokes: [{ ...settings, points: p }] });
    } else if (kind === "from a spot") {
      hint("Growing…");
      addPart({ kind, x: p[0], y: p[1], reach: 7.75 });
    } else if (p.length >= 4) {
      const dx = p[p.length - 2] - p[0],
        dy = p[p.length - 1] - p[1];
      if (Math.hypot(dx, dy) < 2) return hint(HINTS[kind]);
      addPart(
        kind === "gradient"
          ? { kind, x0: p[0], y0: p[1], x1: p[0] + dx, y1: p[1] + dy }
          : { kind, x: p[0], y: p[1], radiusXPx: Math.hypot(dx, dy), radiusYPx: Math.hypot(dx, dy), edgePercent: 50 },
      );
    } else hint(HINTS[kind]);
  }

  const active = () => !panel.hidden && tool !== "" && chosen >= 0 && inBook < 0;
  let painting = false;
  const spot = (event) => sieve.toPicturePx(event.offsetX, event.offsetY);
  sieve.pointers.push({
    down(event) {
      if (!active() || event.button !== 0) return false;
      painting = true;
      drawn = [spot(event)];
      return true;
    },
    move(event) {
      if (!active()) return false;
      pen = spot(event);
      if (painting) {
        const last = drawn[drawn.length - 1],
          apart = Math.hypot(pen[0] - last[0], pen[1] - last[1]);
        // A tenth of the brush between places is enough for a smooth stroke.
        if (tool !== "brush") drawn = [drawn[0], pen];
        else if (apart > Math.max(1, brush().sizePx / 10) && drawn.length < 2000) drawn.push(pen);
      }
      sieve.draw();
      return painting;
    },
    up() {
      if (!painting) return false;
      painting = false;
      finish(drawn);
      return true;
    },
  });

  canvas.addEventListener("keydown", (event) => {
    if (!active() || event.shiftKey) return;
    const move = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
    if (!move && event.key !== "Enter") return;
    event.preventDefault();
    event.stopPropagation();
    if (!pen) pen = sieve.toPicturePx(sieve.stage.clientWidth / 2, sieve.stage.clientHeight / 2);
    if (move) {
      const at = sieve.toStage(...pen);
      pen = sieve.toPicturePx(at[0] + 10 * move[0], at[1] + 10 * move[1]);
      if (drawn.length) {
        if (tool === "brush") drawn.push(pen);
        else drawn = [drawn[0], pen];
      }
    } else if (tool === "from a spot") finish([pen]);
    else if (drawn.length) finish(drawn);
    else drawn = [pen];
    sieve.draw();
  });

  onKey((key) => {
    if (key === "m" || key === "M") return (root.querySelector("[data-panel-button=masks]").click(), true);
    const size = panel.querySelector("[data-brush-field=sizePx]");
    if (!panel.hidden && (key === "[" || key === "]")) {
      size.value = Math.round(Math.min(20000, Math.max(4, Number(size.value) * (key === "[" ? 0.8 : 1.25))));
      return (sieve.draw(), true);
    }
    if (key === "Escape" && !panel.hidden) {
      drawn = [];
      return (begin(""), true);
    }
    return false;
  });

  // Hatching: the stronger the mask, the denser the lines. Exact tiles near, a reduced one for the whole picture.
  const strengths = new Map(),
    T = 512;
  function strength(tx, ty) {
    const { width, height } = sieve.pictureSize();
    const place =
      tx < 0 ? "edge=1600" : "x=" + tx * T + "&y=" + ty * T + "&w=" + Math.min(T, width - tx * T) + "&h=" + Math.min(T, height - ty * T);
    const url = frame + "/masks/" + looked() + "/strength?" + place + sieve.query();
    if (!strengths.has(url)) {
      const image = new Image();
      image.onload = sieve.draw;
      image.src = url;
      strengths.set(url, image);
      if (strengths.size > 80) strengths.delete(strengths.keys().next().value);
    }
    const image = strengths.get(url);
    return image.complete && image.naturalWidth ? image : null;
  }

  const beside = document.createElement("canvas");
  sieve.drawnOver.push((W, H) => {
    if (panel.hidden) return;
    const context = sieve.context,
      s = sieve.scale(),
      dpr = sieve.dpr();
    if (
      hatching.checked &&
      looked() >= 0 &&
      lookedMask().parts.length + lookedMask().inverted > 0 &&
      sieve.state.mode !== "pair" &&
      !sieve.state.held
    ) {
      beside.width = W;
      beside.height = H;
      const b = beside.getContext("2d", { willReadFrequently: true });
      const [ox, oy] = sieve.toStage(0, 0).map((v) => v * dpr),
        t = sieve.turned(s);
      const { width, height } = sieve.pictureSize();
      const [cx, cy] = [ox - t[4], oy - t[5]];
      b.translate(Math.round(cx), Math.round(cy));
      b.transform(...t);
      const draft = strength(-1, -1);
      if (draft) b.drawImage(draft, 0, 0, width * s, height * s);
      const view = sieve.inView();
      if (s >= 0.5)
        for (let ty = Math.floor(view.y / T); ty * T < view.y + view.h; ty++)
          for (let tx = Math.floor(view.x / T); tx * T < view.x + view.w; tx++) {
            const image = strength(tx, ty);
            if (image) b.drawImage(image, tx * T * s, ty * T * s, image.naturalWidth * s, image.naturalHeight * s);
          }
      hatch(b, W, H, Math.round(dpr));
      context.drawImage(beside, 0, 0);
    }
    if (!active()) return;
    const ring = (place, radius) => {
      const [x, y] = sieve.toStage(...place).map((v) => v * dpr);
      for (const [colour, line] of [
        ["#222222", 3],
        ["#ffffff", 1],
      ]) {
        context.strokeStyle = colour;
        context.lineWidth = line;
        context.beginPath();
        context.arc(x, y, Math.max(3, radius), 0, 7);
        context.moveTo(x - 6, y);
        context.lineTo(x + 6, y);
        context.moveTo(x, y - 6);
        context.lineTo(x, y + 6);
        context.stroke();
      }
    };
    if (drawn.length) {
      const places = drawn.map((p) => sieve.toStage(...p).map((v) => v * dpr));
      context.lineCap = context.lineJoin = "round";
      context.strokeStyle = "rgb(255 255 255 / .45)";
      context.lineWidth = tool === "brush" ? Math.max(2, brush().sizePx * s) : 2;
      context.beginPath();
      places.forEach(([x, y], i) => (i ? context.lineTo(x, y) : context.moveTo(x, y)));
      if (places.length === 1) context.lineTo(places[0][0] + 0.1, places[0][1]);
      context.stroke();
    }
    if (pen) ring(pen, tool === "brush" ? (brush().sizePx / 2) * s : 8);
  });

  // Slanting lines, light beside dark so that they are seen on any ground; eight pixels apart, wider as the mask is stronger.
  function hatch(context, W, H, unit) {
    const data = context.getImageData(0, 0, W, H),
      pixels = data.data,
      period = 8 * Math.max(1, unit);
    for (let y = 0, i = 0; y < H; y++)
      for (let x = 0; x < W; x++, i += 4) {
        const strong = pixels[i + 3] ? pixels[i] / 255 : 0,
          phase = ((x + y) % period) / period;
        const light = phase < strong * 0.34,
          dark = !light && phase < strong * 0.6;
        pixels[i] = pixels[i + 1] = pixels[i + 2] = light ? 255 : 0;
        pixels[i + 3] = light || dark ? 150 : 0;
      }
    context.putImageData(data, 0, 0);
  }

  // What the server keeps, unless masks were changed by hand while it was asked: those go there by themselves.
  async function take() {
    const before = all;
    const answer = await fetch(frame + "/masks");
    if (!answer.ok) return;
    const standing = await answer.json();
    if (all !== before) return;
    told(standing);
  }

  // Undo reaches masks, too.
  root.addEventListener("changed-in-place", async () => {
    await take();
    show();
  });
  root.addEventListener("panels", () => {
    if (panel.hidden) {
      begin("");
    } else show();
  });
  take().then(() => {
    if (all.length && chosen < 0) chosen = 0;
    else if (!all.length && ofBook.masks.length) inBook = 0;
    show();
    look();
  });
})();
