// The page Strip: spots across, candidates down, streamed in cell by cell.

import { habit } from "./lib/kept.js";
import { onKey } from "./lib/keys.js";
import { post as send } from "./lib/page.js";

(function strip() {
  const root = document.querySelector("[data-strip]");
  if (!root) return;
  const $ = (selector) => root.querySelector(selector);
  const table = $("[data-strip-table]");
  const KINDS = { SMOOTH: "smooth", FINE: "fine", DARK: "dark", OWN: "own" };
  const ROW_PX = 138,
    LABEL_PX = 190;
  const state = {
    of: "methods",
    equal: false,
    zoom: 1,
    lift: 0,
    blind: false,
    strip: null,
    chosen: -1,
    version: root.dataset.version,
    hovered: 0,
  };
  let generation = 0;

  const dpr = () => window.devicePixelRatio || 1;

  function say(problem) {
    $("[data-strip-problem]").textContent = problem;
    $("[data-strip-problem]").hidden = !problem;
  }

  // What went wrong, as the server says it in plain words.
  async function words(answer) {
    const body = await answer.text();
    if (answer.status === 409)
      return "The camera's page was changed elsewhere since this strip was opened. Nothing was saved; open the strip again and choose anew.";
    const sentence = new DOMParser().parseFromString(body, "text/html").querySelector("[data-sentence]");
    return sentence ? sentence.textContent : body.length < 300 && !body.startsWith("<") ? body : "Rain Sieve could not do that. Try again.";
  }

  async function post(url, values) {
    say("");
    try {
      const answer = await send(url, new URLSearchParams(values || {}), { Accept: "*/*" });
      if (answer.ok) return await answer.json();
      say(await words(answer));
    } catch {
      say("Rain Sieve does not answer.");
    }
    return null;
  }

  let begun = 0;
  async function begin() {
    const mine = ++begun;
    status("finding spots…");
    state.chosen = -1;
    generation++;
    const strip = await post("/frames/" + root.dataset.frame + "/strip", {
      of: state.of,
      equalNoise: state.equal,
      blind: state.blind,
      factor: $("[data-factor]").value,
    });
    if (mine !== begun) return; // another strip was asked for meanwhile
    if (!strip) return status("");
    $("[data-look]").hidden = true;
    show(strip);
  }

  // Asks for a change of the open strip; an answer about one that was left meanwhile must not bring it back.
  async function changed(path, values) {
    const mine = begun;
    const strip = await post("/strips/" + state.strip.token + path, values);
    return mine === begun ? strip : null;
  }

  function status(text) {
    $("[data-strip-status]").textContent = text;
  }

  function show(strip) {
    state.strip = strip;
    $("[data-add-spot]").disabled = strip.spots.length >= 4;
    $("[data-tally]").textContent = strip.tally.length
      ? "blind so far: " + strip.tally.map((t) => t.words.split(" · ").slice(0, 2).join(" ") + " " + t.times + "×").join(", ")
      : "";
    build();
    fill();
  }

  function element(name, className, text) {
    const made = document.createElement(name);
    if (className) made.className = className;
    if (text !== undefined) made.textContent = text;
    return made;
  }

  function build() {
    const strip = state.strip;
    // What had the keyboard's attention keeps it.
    const focus = ["cell", "choose", "replace"]
      .map((name) =>
        document.activeElement?.dataset?.[name] !== undefined ? "[data-" + name + "='" + document.activeElement.dataset[name] + "']" : "",
      )
      .join("");
    table.replaceChildren();
    const grid = element("div", "strip-grid");
    grid.style.gridTemplateColumns = LABEL_PX + "px repeat(" + strip.spots.length + ", minmax(0, 1fr))";
    grid.append(element("div"));
    strip.spots.forEach((spot, at) => {
      const head = element("div", "strip-head");
      head.append(
        element("b", "", KINDS[spot.kind]),
        element(
          "span",
          "num text-quiet",
          "x " + Math.round(spot.x * strip.width).toLocaleString("en") + ", y " + Math.round(spot.y * strip.height).toLocaleString("en"),
        ),
      );
      if (strip.spots.length > 1) {
        const remove = element("button", "strip-x", "×");
        remove.type = "button";
        remove.setAttribute("aria-label", "Remove the spot " + KINDS[spot.kind]);
        remove.addEventListener("click", async () => {
          const s = await changed("/spots", { index: at });
          if (s) show(s);
        });
        head.append(remove);
      }
      grid.append(head);
    });
    strip.rows.forEach((row, r) => {
      const label = element("div", "strip-label" + (r === state.chosen ? " chosen" : ""));
      label.dataset.row = r;
      if (strip.hidden) label.append(element("b", "", "Row " + (r + 1)));
      else row.split(" · ").forEach((part, i) => label.append(element(i ? "span" : "b", i ? "num" : "", part)));
      label.append(element("span", "num text-quiet", "\u00a0"));
      label.lastChild.dataset.time = r;
      const buttons = element("span", "flex gap-2 mt-auto");
      const keep = element(
        "button",
        r === state.chosen ? "btn !px-3 !py-0" : "btn-plain !px-3 !py-0",
        r === state.chosen ? "chosen" : "Choose",
      );
      keep.type = "button";
      keep.dataset.choose = r;
      keep.addEventListener("click", () => choose(r));
      buttons.append(keep);
      if (!strip.hidden && strip.untried > 0) {
        const replace = element("button", "btn-plain !px-3 !py-0", "Replace");
        replace.type = "button";
        replace.dataset.replace = r;
        replace.title = "Brings the next untried candidate into this row";
        replace.addEventListener("click", async () => {
          const s = await changed("/replace", { row: r });
          if (s) {
            if (state.chosen === r) state.chosen = -1;
            show(s);
          }
        });
        buttons.append(replace);
      }
      label.append(buttons);
      grid.append(label);
      strip.spots.forEach((spot, s) => grid.append(cell(r, s)));
    });
    table.append(grid);
    if (focus) table.querySelector(focus)?.focus();
  }

  function cell(row, spot) {
    const box = element("figure", "strip-cell" + (row === state.chosen ? " chosen" : ""));
    box.style.height = ROW_PX + "px";
    box.tabIndex = 0;
    box.dataset.cell = row + "/" + spot;
    box.setAttribute("role", "button");
    const image = element("img");
    image.alt = "";
    image.draggable = false;
    image.hidden = true;
    box.append(image, element("span", "strip-wait num", "waiting"), element("figcaption", "num", ""));
    box.addEventListener("pointerenter", () => {
      state.hovered = spot;
    });
    moved(box, spot, () => enlarge(row, spot));
    box.addEventListener("keydown", (event) => {
      if (event.key !== "Enter" && event.key !== " ") return;
      event.preventDefault(); // or the same key would press the button that the dialog puts the focus on
      enlarge(row, spot);
    });
    return box;
  }

  // A drag moves the spot by as much; a press without one opens the cell large.
  function moved(box, spot, pressed) {
    let from = null;
    const shift = (by) =>
      column(spot).forEach((other) => {
        other.querySelector("img").style.translate = by;
      });
    box.addEventListener("pointerdown", (event) => {
      from = { x: event.clientX, y: event.clientY };
      box.setPointerCapture(event.pointerId);
    });
    box.addEventListener("pointermove", (event) => {
      if (!from) return;
      shift(event.clientX - from.x + "px " + (event.clientY - from.y) + "px");
    });
    box.addEventListener("pointerup", async (event) => {
      if (!from) return;
      const dx = event.clientX - from.x,
        dy = event.clientY - from.y;
      from = null;
      if (Math.hypot(dx, dy) < 5) {
        shift("");
        return pressed();
      }
      const strip = state.strip,
        at = strip.spots[spot],
        px = dpr() / state.zoom;
      const s = await changed("/spots", { index: spot, x: at.x - (dx * px) / strip.width, y: at.y - (dy * px) / strip.height });
      if (s) show(s);
      else shift("");
    });
  }

  const column = (spot) => [...table.querySelectorAll("[data-cell]")].filter((box) => box.dataset.cell.endsWith("/" + spot));

  function wanted(box) {
    return {
      w: Math.max(16, Math.ceil((box.clientWidth * dpr()) / state.zoom)),
      h: Math.max(16, Math.ceil((box.clientHeight * dpr()) / state.zoom)),
    };
  }

  // Cells come nearest spot first, two at a time; what belongs to an older strip is dropped.
  async function fill() {
    const mine = ++generation;
    const strip = state.strip;
    const order = strip.spots.map((_, s) => s).sort((a, b) => Math.abs(a - state.hovered) - Math.abs(b - state.hovered) || a - b);
    const cells = order.flatMap((s) => strip.rows.map((_, r) => [r, s]));
    let done = 0;
    const all = cells.length,
      since = performance.now();
    const next = async () => {
      while (cells.length && mine === generation) {
        const [r, s] = cells.shift();
        await load(r, s, mine);
        done++;
        if (mine !== generation) return;
        const left = (((performance.now() - since) / done) * (all - done)) / 1000;
        status(done < all ? done + " of " + all + " cells, about " + Math.max(1, Math.round(left)) + " s left" : "");
      }
    };
    status("rendering…");
    // Hidden rows of a column come together, so all of them are asked for at once.
    await Promise.all(Array.from({ length: strip.hidden ? strip.rows.length : 2 }, next));
    if (mine !== generation) return;
    status("");
    root.dataset.filled = generation;
    if (!strip.hidden)
      for (const s of order)
        for (let r = 0; r < strip.rows.length; r++) {
          if (mine !== generation) return;
          await figures(r, s, mine);
        }
    if (mine === generation) root.dataset.measured = generation;
  }

  function load(r, s, mine) {
    return new Promise((resolve) => {
      const box = table.querySelector("[data-cell='" + r + "/" + s + "']");
      const image = box.querySelector("img"),
        wait = box.querySelector(".strip-wait");
      wait.textContent = "rendering…";
      const { w, h } = wanted(box);
      const fresh = new Image();
      fresh.onload = () => {
        if (mine === generation) {
          image.src = fresh.src;
          image.style.width = (fresh.naturalWidth * state.zoom) / dpr() + "px";
          image.hidden = false;
          wait.hidden = true;
        }
        resolve();
      };
      fresh.onerror = async () => {
        if (mine === generation) {
          try {
            const answer = await fetch(fresh.src);
            wait.textContent = answer.ok ? "not rendered" : (await answer.text()).slice(0, 120);
          } catch {
            wait.textContent = "no answer";
          }
        }
        resolve();
      };
      fresh.src = cellAddress(r, s, w, h) + "&v=" + mine;
    });
  }

  function cellAddress(r, s, w, h) {
    const look = new URLSearchParams({ w, h, lift: state.lift, proof: proof() });
    return ["/strips", state.strip.token, "cells", r, s].join("/") + "?" + look;
  }

  // With the tones that are kept for the shoot.
  const proof = () => Boolean($("[data-proof]")?.checked);

  async function figures(r, s, mine) {
    const box = table.querySelector("[data-cell='" + r + "/" + s + "']");
    const { w, h } = wanted(box);
    try {
      const answer = await fetch("/strips/" + state.strip.token + "/figures/" + r + "/" + s + "?w=" + w + "&h=" + h);
      if (answer.status !== 200 || mine !== generation) return;
      const told = await answer.json();
      const m = told.measured,
        parts = [];
      // Where there is structure everywhere, it would pass for noise.
      if (state.strip.spots[s].kind !== "FINE") parts.push("noise left " + Math.round(m.noiseLeftPercent) + " %");
      if (m.overshootPercent > 0.05) parts.push("overshoot " + m.overshootPercent.toFixed(1) + " %");
      const line = parts.join(" · ");
      box.querySelector("figcaption").textContent = line;
      if (told.seconds)
        table.querySelector("[data-time='" + r + "']").textContent =
          "about " + (told.seconds < 10 ? told.seconds.toFixed(1) : Math.round(told.seconds)) + " s per frame";
    } catch {
      /* the picture is there; its figures can wait */
    }
  }

  async function choose(row) {
    const target = root.querySelector("input[name=target]:checked").value;
    const mine = begun;
    const answer = await post("/strips/" + state.strip.token + "/choose", { row, target, version: state.version });
    if (!answer) return;
    state.version = answer.version;
    if (mine !== begun) return;
    state.chosen = row;
    // How pictures are enlarged is a run's choice: the next one begins with it.
    if (state.of === "edges")
      habit.set("enlarge next", {
        value: Number($("[data-factor]").value),
        edges: /edges (learned|natural)/i.exec(answer.strip.rows[row])[1].toUpperCase(),
      });
    $("[data-strip-undo]").hidden = state.of === "edges";
    $("[data-look]").hidden = !["methods", "grain", "colour", "bite"].includes(state.of);
    show(answer.strip);
  }

  async function enlarge(r, s) {
    const dialog = $("[data-cell-dialog]"),
      image = $("[data-cell-image]");
    const box = table.querySelector("[data-cell='" + r + "/" + s + "']");
    $("[data-cell-words]").textContent = state.strip.hidden ? "Row " + (r + 1) : state.strip.rows[r];
    $("[data-cell-figures]").textContent = box.querySelector("figcaption").textContent;
    image.removeAttribute("src");
    dialog.showModal();
    const w = Math.min(1600, Math.ceil((1000 * dpr()) / state.zoom)),
      h = Math.min(1600, Math.ceil((600 * dpr()) / state.zoom));
    image.onload = () => {
      image.style.width = (image.naturalWidth * state.zoom) / dpr() + "px";
      image.style.maxWidth = "none";
    };
    image.src = cellAddress(r, s, w, h) + "&large=" + generation;
  }

  async function look() {
    const answer = await fetch("/strips/" + state.strip.token + "/same-look?row=" + state.chosen);
    if (!answer.ok) return say(await words(answer));
    const rows = $("[data-look-rows]");
    rows.replaceChildren(
      ...(await answer.json()).map((rung) => {
        const line = element("tr");
        line.append(element("td", "right", rung.ei.toLocaleString("en")), element("td", "", rung.before), element("td", "", rung.after));
        return line;
      }),
    );
    $("[data-look-dialog]").showModal();
  }

  function press(selector, attribute, value) {
    root.querySelectorAll(selector + " button").forEach((b) => b.setAttribute("aria-pressed", b.dataset[attribute] === String(value)));
  }

  function rowsOf(of) {
    state.of = of;
    $("[data-of]").value = of;
    $("[data-footing]").hidden = of !== "methods";
    $("[data-factor-label]").hidden = of !== "edges";
    $("[data-applies]").hidden = ["edges", "models"].includes(of);
    $("[data-applies-run]").hidden = of !== "edges";
    $("[data-applies-camera]").hidden = of !== "models";
  }
  $("[data-of]").addEventListener("change", (event) => {
    rowsOf(event.target.value);
    begin();
  });
  $("[data-factor]").addEventListener("change", begin);
  root.querySelectorAll("[data-equal]").forEach((b) =>
    b.addEventListener("click", () => {
      state.equal = b.dataset.equal === "true";
      press("[data-footing]", "equal", state.equal);
      begin();
    }),
  );
  root.querySelectorAll("[data-strip-zooms] button").forEach((b) => b.addEventListener("click", () => zoom(Number(b.dataset.zoom))));
  function zoom(to) {
    state.zoom = to;
    press("[data-strip-zooms]", "zoom", to);
    if (state.strip) {
      build();
      fill();
    }
  }
  function lift(to) {
    state.lift = Math.max(0, Math.min(4, to));
    $("[data-strip-lift]").value = state.lift;
    $("[data-strip-lift-value]").textContent = state.lift + (state.lift === 1 ? " stop" : " stops");
    if (state.strip) fill();
  }
  $("[data-strip-lift]").addEventListener("change", (event) => lift(Number(event.target.value)));
  $("[data-proof]")?.addEventListener("change", () => state.strip && fill());
  $("[data-blind]").addEventListener("change", (event) => {
    state.blind = event.target.checked;
    begin();
  });
  $("[data-find-spots]").addEventListener("click", async () => {
    if (!state.strip) return;
    const s = await changed("/spots/find");
    if (s) show(s);
  });
  $("[data-add-spot]").addEventListener("click", async () => {
    if (!state.strip) return;
    const s = await changed("/spots", { index: state.strip.spots.length, x: 0.5, y: 0.5 });
    if (s) show(s);
  });
  $("[data-cell-close]").addEventListener("click", () => $("[data-cell-dialog]").close());
  $("[data-look]").addEventListener("click", look);
  $("[data-look-close]").addEventListener("click", () => $("[data-look-dialog]").close());
  $("[data-look-take]").addEventListener("click", async () => {
    const answer = await post("/strips/" + state.strip.token + "/same-look", { row: state.chosen, version: state.version });
    $("[data-look-dialog]").close();
    if (answer) {
      state.version = answer.version;
      status("taken over to all rungs");
      $("[data-strip-undo]").hidden = false;
    }
  });
  $("[data-strip-undo]").addEventListener("click", undo);
  async function undo() {
    const answer = await post("/strips/" + state.strip.token + "/undo");
    if (!answer) return;
    state.version = answer.version;
    state.chosen = -1;
    $("[data-strip-undo]").hidden = true;
    $("[data-look]").hidden = true;
    build();
    fill();
    status("undone");
  }
  onKey((key) => {
    if (key === "4" || key === "5" || key === "6") return (zoom({ 4: 1, 5: 2, 6: 4 }[key]), true);
    if (key === "l" || key === "L") return (lift(state.lift + (key === "l" ? 0.5 : -0.5)), true);
    return key === "u" && !$("[data-strip-undo]").hidden && (undo(), true);
  });
  // Leaving drops what is not rendered yet.
  window.addEventListener("pagehide", () => {
    generation++;
  });
  const asked = new URLSearchParams(location.search).get("of");
  if ([...$("[data-of]").options].some((option) => option.value === asked)) rowsOf(asked);
  begin();
})();
