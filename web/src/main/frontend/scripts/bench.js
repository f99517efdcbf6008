// The bench beside its picture: steps that open one at a time, changes that are kept until they are applied, undo in one order,
// what is measured in view, the preview of a wider change, keeping and dropping.

import { pending, view as kept } from "./lib/kept.js";
import { onKey } from "./lib/keys.js";
import { post, sentence } from "./lib/page.js";
import "./viewer.js";

(function bench() {
  const root = document.querySelector("[data-viewer=bench]");
  if (!root) return;
  const sieve = root.sieve,
    cards = root.querySelector("[data-steps]"),
    id = root.dataset.frame,
    frame = "/frames/" + id;
  const $ = (selector) => root.querySelector(selector);
  const text = (selector, words) => {
    $(selector).textContent = words;
  };
  const field = (name) => cards.elements[name];
  const percent = (v) => Math.round(v) + " %";
  const alone = new URLSearchParams(location.search).has("alone");

  // ---- what is in force, and what stands in the form
  const NAMES = [
    "on",
    "method",
    "grainKept",
    "colourNoiseKept",
    "detail",
    "sharpen",
    "soft",
    "disc",
    "line",
    "angle",
    "corners",
    "fine",
    "coarse",
    "rim",
    "sharpenBy",
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
  const value = (name) => (field(name).type === "checkbox" ? field(name).checked : field(name).value);
  const now = () => Object.fromEntries(NAMES.map((name) => [name, value(name)]));
  const same = (name, a, b) => (field(name).type === "number" ? Number(a) === Number(b) : a === b);
  let inForce = now(),
    book = Object.fromEntries(
      NAMES.filter((name) => field(name).dataset.book !== undefined).map((name) => [name, field(name).dataset.book]),
    );
  const bookSwitches = { on: root.dataset.bookOn === "true", sharpen: root.dataset.bookSharpen === "true" };

  function put(fields) {
    for (const [name, wanted] of Object.entries(fields)) {
      if (!field(name)) continue;
      if (field(name).type === "checkbox") field(name).checked = wanted;
      else field(name).value = wanted;
      field(name).dispatchEvent(new Event("input")); // for the slider beside it; the form hears of it once, below
    }
    follow();
  }
  const differing = () => Object.fromEntries(Object.entries(now()).filter(([name, v]) => !same(name, v, inForce[name])));

  // ---- what is not applied is kept with the frame, whoever leaves, and can be taken back step by step
  const steps = [];
  let last = now();
  function committed() {
    const next = now();
    if (NAMES.every((name) => same(name, next[name], last[name]))) return;
    steps.push(last);
    last = next;
    showStanding();
  }
  function showStanding() {
    const open = differing(),
      any = Object.keys(open).length > 0;
    if (!alone) pending.keep(id, open);
    $("[data-forget]").hidden = !any;
    $("[data-apply]").classList.toggle("waiting", any);
    $("[data-undo]").disabled = steps.length === 0 && !served.undo;
    $("[data-undo]").title = steps.length ? "the last change of this frame, not applied" : served.undo || "nothing to undo";
    $("[data-redo]").disabled = !served.redo;
    $("[data-redo]").title = served.redo || "nothing to redo";
  }
  const served = { undo: $("[data-undo]").title || null, redo: $("[data-redo]").title || null };

  // What hangs on the amounts: marks, words, the amounts in front, switches.
  function follow() {
    differences();
    gists();
    sharpness();
    cards.querySelectorAll(".mesh").forEach((mesh) => {
      mesh.querySelector("span").textContent = mesh.querySelector("input").checked ? "on" : "off";
    });
  }

  function differences() {
    for (const body of cards.querySelectorAll("[data-body]")) {
      const back = body.querySelector("[data-back]");
      if (!back) continue;
      let any = false;
      for (const input of body.querySelectorAll("[data-book]")) {
        const differs = !same(input.name, input.value, book[input.name]);
        input.classList.toggle("differs", differs);
        any ||= differs;
      }
      const name = body.dataset.body === "denoise" ? "on" : "sharpen";
      any ||= field(name).checked !== bookSwitches[name];
      back.hidden = !any;
    }
  }
  for (const back of cards.querySelectorAll("[data-back]"))
    back.addEventListener("click", () => {
      const body = back.closest("[data-body]"),
        name = body.dataset.body === "denoise" ? "on" : "sharpen";
      put(Object.fromEntries([...body.querySelectorAll("[data-book]")].map((input) => [input.name, book[input.name]])));
      field(name).checked = bookSwitches[name];
      told();
    });

  // What each step does, in a few words beside its name.
  function gists() {
    const n = (name) => Math.round(Number(value(name)) * 10) / 10;
    text("[data-gist=denoise]", value("on") ? value("method") + " " + n("grainKept") + " %" : "");
    text(
      "[data-gist=sharpen]",
      value("sharpen")
        ? n("fine") + " %" + { soft: ", soft lens", disc: ", missed focus", line: ", movement", mixed: ", several" }[cause()]
        : "",
    );
    text("[data-gist=optics]", value("optics") ? $("[data-lens-found]").textContent || value("lens") : "");
    text("[data-gist=crop]", value("crop") ? value("aspect") + (Number(value("turn")) ? ", " + n("turn") + "°" : "") : "");
    text("[data-gist=enlarge]", field("shownFactor").value ? "shown " + field("shownFactor").value + " times" : "");
  }

  // ---- Sharpen: one sharpness in front, the cause with its size, the shape behind
  const main = $("[data-main]"),
    mainRange = $("[data-main-range]"),
    causes = $("[data-cause]"),
    size = $("[data-size]");
  const suggest = $("[data-suggest]");
  const shape = () => ["soft", "disc", "line"].filter((name) => Number(value(name)) > 0);
  function cause() {
    const parts = shape();
    return parts.length > 1 ? "mixed" : parts[0] || "soft";
  }
  function sharpness() {
    if (document.activeElement !== main) main.value = value("fine");
    mainRange.value = value("fine");
    if (document.activeElement !== causes) causes.value = isRead() ? "read" : cause();
    const sole = shape().length <= 1;
    $("[data-cause-size]").hidden = !sole;
    if (document.activeElement !== size) size.value = value(cause() === "mixed" ? "soft" : cause());
  }
  const isRead = () => suggest && ["soft", "disc", "line"].every((name) => Number(value(name)) === Number(suggest.dataset[name]));
  function setSharpness(v) {
    const before = Number(value("fine")),
      coarse = Number(value("coarse")),
      ratio = before > 0 ? coarse / before : 0.5;
    field("fine").value = v;
    field("coarse").value = Math.round(Math.min(100, v * ratio));
    field("sharpen").checked = true;
  }
  mainRange.addEventListener("input", (event) => {
    event.stopPropagation();
    main.value = mainRange.value;
    setSharpness(mainRange.value);
    told();
  });
  main.addEventListener("input", (event) => {
    event.stopPropagation();
    if (main.value !== "" && main.checkValidity()) {
      setSharpness(Number(main.value));
      told();
    }
  });
  const TYPICAL = { soft: 1, disc: 2, line: 6 };
  causes.addEventListener("change", (event) => {
    event.stopPropagation();
    if (causes.value === "read") for (const name of ["soft", "disc", "line", "angle", "corners"]) field(name).value = suggest.dataset[name];
    else if (causes.value !== "mixed")
      for (const name of ["soft", "disc", "line"]) field(name).value = name === causes.value ? Number(value(name)) || TYPICAL[name] : 0;
    field("sharpen").checked = true;
    if (causes.value === "mixed" || causes.value === "line") more(cards.querySelector("[data-body=sharpen]"), true);
    causes.blur();
    told();
  });
  size.addEventListener("input", (event) => {
    event.stopPropagation();
    const name = cause() === "mixed" ? "soft" : cause();
    if (size.value !== "" && Number(size.value) <= Number(field(name).max)) {
      field(name).value = size.value;
      told();
    }
  });

  // ---- steps open one at a time
  let opened = kept.get().step ?? "denoise";
  function unfold(name) {
    for (const body of cards.querySelectorAll("[data-body]")) body.hidden = body.dataset.body !== name;
    for (const button of cards.querySelectorAll("[data-unfold]")) button.setAttribute("aria-expanded", button.dataset.unfold === name);
    if (name) opened = name;
    kept.set({ step: opened, folded: !name });
    root.dispatchEvent(new Event("unfolded"));
  }
  const isOpen = (name) => !cards.querySelector("[data-body=" + name + "]").hidden;
  // A short press opens a step; a long one shows the picture without it.
  for (const button of cards.querySelectorAll("[data-unfold]")) {
    let timer = 0,
      held = false;
    button.addEventListener("pointerdown", () => {
      held = false;
      timer = setTimeout(() => {
        held = true;
        sieve.state.left = button.dataset.hold;
        sieve.draw();
      }, 250);
    });
    for (const end of ["pointerup", "pointerleave"])
      button.addEventListener(end, () => {
        clearTimeout(timer);
        if (sieve.state.left) {
          sieve.state.left = "";
          sieve.draw();
        }
      });
    button.addEventListener("click", () => {
      if (!held) unfold(isOpen(button.dataset.unfold) ? "" : button.dataset.unfold);
      held = false;
    });
  }
  function more(body, open) {
    for (const row of body.querySelectorAll("[data-rest]")) row.hidden = !open;
    const button = body.querySelector("[data-more]");
    button?.setAttribute("aria-expanded", open);
    if (button) button.textContent = open ? "less" : "more";
  }
  for (const button of cards.querySelectorAll("[data-more]"))
    button.addEventListener("click", () => {
      const body = button.closest("[data-body]"),
        open = button.getAttribute("aria-expanded") !== "true";
      more(body, open);
      kept.set({ more: { ...kept.get().more, [body.dataset.body]: open } });
    });

  // ---- the form hears of changes: at once for the picture, when an amount rests for undo
  let resting = 0;
  function told() {
    follow();
    cards.dispatchEvent(new Event("input"));
    clearTimeout(resting);
    resting = setTimeout(committed, 400);
    showStanding();
  }
  cards.addEventListener("input", (event) => {
    if (event.target !== cards && event.target.name !== "target") {
      follow();
      clearTimeout(resting);
      resting = setTimeout(committed, 400);
      showStanding();
    }
  });
  cards.addEventListener("change", (event) => {
    if (event.target.name !== "target") {
      follow();
      committed();
      showStanding();
    }
  });
  // A drag on the picture is one step, whatever was typed just before.
  sieve.canvas.addEventListener(
    "pointerdown",
    () => {
      clearTimeout(resting);
      committed();
    },
    { capture: true },
  );
  // Switching a step on opens it.
  for (const box of cards.querySelectorAll(".mesh input"))
    box.addEventListener("change", () => {
      const name = box.closest("[data-step]").dataset.step;
      if (box.checked && !isOpen(name)) unfold(name);
    });

  function taken(state) {
    cards.elements.version.value = state.version;
    root.dataset.at = state.at;
    inForce = Object.fromEntries(NAMES.map((name) => [name, state.fields[name]]));
    book = state.bookFields;
    bookSwitches.on = state.bookFields.on;
    bookSwitches.sharpen = state.bookFields.sharpen;
    served.undo = state.undo;
    served.redo = state.redo;
    const target = cards.elements.target,
      chosen = target.value;
    target.replaceChildren(
      ...state.targets.map((t) => {
        const option = new Option(t.words + " (" + t.frames.toLocaleString("en") + ")", t.name);
        option.dataset.frames = t.frames;
        return option;
      }),
    );
    if ([...target.options].some((option) => option.value === chosen)) target.value = chosen;
    $("[data-follow]").hidden = state.follows;
    text("[data-follows]", state.follows ? "this frame takes its amounts from here" : "this frame has settings of its own");
    $("[data-body=denoise] [data-back]").title = state.bookWords.denoise;
    $("[data-body=sharpen] [data-back]").title = state.bookWords.sharpen;
  }

  const said = $("[data-said]");
  let saying = 0;
  function say(words, undo) {
    said.replaceChildren(words);
    if (undo) {
      const button = document.createElement("button");
      button.type = "button";
      button.className = "underline cursor-pointer ml-3";
      button.textContent = "Undo";
      button.addEventListener("click", () => change("/undo"));
      said.append(button);
    }
    said.hidden = false;
    clearTimeout(saying);
    saying = setTimeout(() => {
      said.hidden = true;
    }, 8000);
  }

  let busy = false;
  /** Asks for a change; the page takes over what stands then. */
  async function change(path, body, keepForm) {
    if (busy) return false;
    busy = true;
    try {
      const answer = await post(frame + path, body || new URLSearchParams());
      if (answer.status === 409) {
        agreed = true;
        cards.submit();
        return false;
      } // the page that shows both
      if (!answer.ok) {
        say("■ " + sentence(await answer.text(), "That could not be kept. Try again."));
        return false;
      }
      const state = await answer.json();
      taken(state);
      if (!keepForm) {
        steps.length = 0;
        put(state.fields);
      }
      last = now();
      steps.length = keepForm ? steps.length : 0;
      follow();
      showStanding();
      sieve.again();
      root.dispatchEvent(new Event("changed-in-place"));
      say(state.said, path === "/settings");
      return true;
    } catch {
      say("■ Rain Sieve does not answer. What stands here is kept; try again.");
      return false;
    } finally {
      busy = false;
    }
  }

  $("[data-undo]").addEventListener("click", () => {
    clearTimeout(resting);
    committed();
    if (steps.length) {
      const before = steps.pop();
      put(before);
      last = now();
      cards.dispatchEvent(new Event("input"));
      showStanding();
      say("Taken back; it was not applied yet");
    } else if (served.undo) change("/undo");
  });
  $("[data-redo]").addEventListener("click", () => {
    if (served.redo) change("/redo");
  });
  $("[data-follow]").addEventListener("click", () => change("/follow"));
  $("[data-forget]").addEventListener("click", () => {
    put(inForce);
    committed();
    cards.dispatchEvent(new Event("input"));
    showStanding();
  });

  // ---- keep and drop, where sharpness is judged
  function showMark() {
    for (const button of root.querySelectorAll("[data-mark-as]"))
      button.setAttribute("aria-pressed", button.dataset.markAs === root.dataset.mark);
  }
  async function mark(as) {
    const before = root.dataset.mark,
      wanted = before === as ? "none" : as;
    root.dataset.mark = wanted === "none" ? "" : wanted;
    showMark();
    const answer = await post("/shoots/" + root.dataset.shoot + "/marks", new URLSearchParams({ frames: id, mark: wanted })).catch(
      () => null,
    );
    if (answer?.ok) return;
    root.dataset.mark = before;
    showMark();
    say("■ The mark could not be kept. Try again.");
  }
  for (const button of root.querySelectorAll("[data-mark-as]")) button.addEventListener("click", () => mark(button.dataset.markAs));
  showMark();

  onKey((key) => {
    const low = key.toLowerCase();
    if (low === "q" || low === "w") return (mark(low === "q" ? "keep" : "drop"), true);
    if (low === "b") return (unfold([...cards.querySelectorAll("[data-body]")].some((body) => !body.hidden) ? "" : opened), true);
    if (low === "a" && $("[data-burst-link]")) return ($("[data-burst-link]").click(), true);
    if (low === "t") return ($("[data-strip-link]").click(), true);
    return false;
  });

  // Arrow keys change an amount by its step; a comma halves the step.
  const strides = new WeakMap();
  root.addEventListener("keydown", (event) => {
    const input = event.target;
    if (input.type !== "number") return;
    if (event.key === ",") {
      const step = (strides.get(input) || 1) / 2;
      strides.set(input, step < 0.1 ? 1 : step);
      input.title = "arrow keys change it by " + strides.get(input);
      event.preventDefault();
    } else if (event.key === "ArrowUp" || event.key === "ArrowDown") {
      const next = Number(input.value) + (event.key === "ArrowUp" ? 1 : -1) * (strides.get(input) || 1);
      const least = input.min === "" ? -Infinity : Number(input.min),
        most = input.max === "" ? Infinity : Number(input.max);
      input.value = Math.round(1000 * Math.min(most, Math.max(least, next))) / 1000;
      input.dispatchEvent(new Event("input", { bubbles: true }));
      event.preventDefault();
    } else if (event.key === "Enter" && input.form === cards) {
      input.blur();
      event.preventDefault();
    }
  });

  // ---- what is measured on the region in view; only where the picture is shown pixel for pixel or larger
  let asking = 0,
    asked = "",
    question = new AbortController();
  const measure = () =>
    measured().catch((e) => {
      if (e.name !== "AbortError") throw e;
    });
  async function measured() {
    const view = document.getElementById("view");
    const place = sieve.inView();
    const where = "?x=" + place.x + "&y=" + place.y + "&w=" + place.w + "&h=" + place.h + sieve.asked.after;
    const wanted = where + view.hidden + sieve.state.over;
    if (wanted === asked || place.w < 1 || place.h < 1 || document.hidden) return;
    asked = wanted;
    // What was asked before is not waited for.
    question.abort();
    question = new AbortController();
    const mine = ++asking,
      who = "&viewer=" + sieve.viewerId + "&asked=" + mine,
      { signal } = question;
    if (!view.hidden) {
      const answer = await fetch(frame + "/histogram" + where + who, { signal });
      if (mine !== asking) return;
      if (answer.status === 200) drawHistogram(await answer.json());
    }
    const close = sieve.scale() >= 1 && place.w * place.h <= 3e6;
    let figures = null;
    if (close) {
      const answer = await fetch(frame + "/figures" + where + who, { signal });
      if (mine !== asking) return;
      if (answer.status === 200) figures = await answer.json();
    }
    const m = figures?.measured;
    text("[data-effect=denoise]", m ? remains(m.noiseLeftPercent) : "noise remaining: measured from 100 % on");
    text("[data-effect=sharpen]", m && cards.elements.sharpen.checked ? "in view: halo " + percent(m.overshootPercent) : "");
    text(
      "[data-seconds]",
      figures?.seconds ? "≈ " + (figures.seconds < 10 ? figures.seconds.toFixed(1) : Math.round(figures.seconds)) + " s a frame" : "",
    );
  }
  // One number: what remains. Where it is not what was asked for, why.
  function remains(left) {
    const wanted = Number(value("grainKept"));
    const why = !value("on")
      ? ""
      : left > wanted + 4
        ? "; " + wanted + " % asked, the rest is texture"
        : left < wanted - 4
          ? "; " + wanted + " % asked, colour went as well"
          : "";
    return "noise remaining in view " + percent(left) + why;
  }
  root.addEventListener("rests", measure);
  root.addEventListener("panels", measure);

  // Red, green and blue told by their lines, for no colour stands near the picture.
  function drawHistogram(data) {
    const svg = $("[data-histogram]"),
      left = 6,
      right = 290,
      floor = 96,
      bins = data.counts[0].length;
    const most = Math.max(1, ...data.counts.flat());
    const x = (bin) => right - ((bin + 0.5) / bins) * (right - left),
      y = (n) => floor - (Math.log1p(n) / Math.log1p(most)) * (floor - 8);
    const path = (counts) => counts.map((n, bin) => (bin ? "L" : "M") + x(bin).toFixed(1) + " " + y(n).toFixed(1)).join("");
    let inside = '<path d="M' + left + " " + floor + "H" + right + '" stroke="currentColor" opacity="0.5"/>';
    for (let stop = 0; stop <= 14; stop += 2)
      inside +=
        '<path d="M' +
        x(stop * 4 - 0.5) +
        " " +
        floor +
        'v4" stroke="currentColor" opacity="0.5"/><text x="' +
        x(stop * 4 - 0.5) +
        '" y="' +
        (floor + 16) +
        '" font-size="10" text-anchor="middle" fill="currentColor">' +
        (stop ? "−" + stop : "0") +
        "</text>";
    ["4 2", "", "1 2"].forEach((dash, c) => {
      inside +=
        '<path d="' +
        path(data.counts[c]) +
        '" fill="none" stroke="currentColor" stroke-width="' +
        (c === 1 ? 1.5 : 1) +
        '" stroke-dasharray="' +
        dash +
        '"/>';
    });
    svg.innerHTML = inside;
    text(
      "[data-histogram-words]",
      "stops below clipping; red – –, green —, blue ···. Clipped " +
        data.clippedPercent.toFixed(2) +
        " %, at or below black " +
        data.emptyPercent.toFixed(2) +
        " %",
    );
  }

  // ---- a wider change is shown before it is written: its numbers, and three frames where they are sharpest
  const dialog = $("[data-widen]");
  let agreed = false;
  async function applied() {
    const form = new URLSearchParams();
    for (const [name, v] of new FormData(cards)) form.append(name, NAMES.includes(name) ? sieve.checked(name, v) : v);
    return change("/settings", form);
  }
  cards.addEventListener("submit", async (event) => {
    if (agreed || event.submitter?.hasAttribute("formaction")) return;
    event.preventDefault();
    const target = cards.elements.target;
    if (target.value === "frame") {
      applied();
      return;
    }
    const option = target.selectedOptions[0],
      count = Number(option.dataset.frames);
    text(
      "[data-widen-title]",
      "This changes " +
        option.textContent.replace(/ \([\d,]+\)$/, "") +
        ": " +
        count.toLocaleString("en") +
        (count === 1 ? " frame" : " frames"),
    );
    const list = $("[data-widen-frames]"),
      table = $("[data-widen-rungs]");
    list.replaceChildren();
    table.replaceChildren();
    text("[data-widen-words]", "looking for frames…");
    dialog.showModal();
    const query = sieve.query();
    const answer = await fetch(frame + "/widen?target=" + target.value + query);
    const wider = answer.ok ? await answer.json() : { frames: [], rungs: [] };
    for (const rung of wider.rungs) {
      const row = table.insertRow();
      for (const words of [rung.what, rung.before || "new", "→", rung.after || "gone"]) row.insertCell().textContent = words;
    }
    const n = wider.frames.length;
    text(
      "[data-widen-words]",
      (wider.rungs.length ? "" : "No number in the camera book changes. ") +
        (n
          ? (n === 1 ? "One of them" : n === 2 ? "Two of them" : "Three of them") +
            " at the sharpest place, 100 %: as now, and as it would be."
          : "No other frame of this shoot follows it now."),
    );
    for (const other of wider.frames)
      for (const changed of [false, true]) {
        const figure = document.createElement("figure"),
          image = document.createElement("img"),
          caption = document.createElement("figcaption");
        image.alt = other.name + (changed ? " as it would be" : " as it is");
        image.src = frame + "/widen/" + other.id + "?target=" + target.value + "&changed=" + changed + query;
        caption.textContent = other.name + " · ISO " + other.ei.toLocaleString("en") + (changed ? " · then" : " · now");
        figure.append(image, caption);
        list.append(figure);
      }
  });
  $("[data-widen-yes]").addEventListener("click", async () => {
    dialog.close();
    await applied();
    cards.elements.target.value = "frame";
  });
  $("[data-widen-no]").addEventListener("click", () => dialog.close());

  // ---- a file that another program handed over goes back: applied, made, and said when it is there
  $("[data-send-back]")?.addEventListener("click", async (event) => {
    const button = event.target,
      form = new URLSearchParams();
    for (const [name, v] of new FormData(cards)) form.append(name, NAMES.includes(name) ? sieve.checked(name, v) : v);
    button.disabled = true;
    try {
      const answer = await post(frame + "/return", form);
      if (!answer.ok) {
        say("■ " + sentence(await answer.text(), "It could not be made. Try again."));
        return;
      }
      let made = await answer.json();
      while (made.state !== "returned" && made.state !== "failed") {
        say("Being made…");
        await new Promise((done) => setTimeout(done, 700));
        const next = await fetch(frame + "/returned");
        if (next.ok) made = await next.json();
      }
      say(made.state === "returned" ? "Sent back: " + made.path : "■ " + made.reason);
      pending.keep(id, {});
      askState();
    } catch {
      say("■ Rain Sieve does not answer. Look at the runs when it does.");
    } finally {
      button.disabled = false;
    }
  });

  // ---- the picture alone in a second window, on another screen: it follows the bench
  const channel = new BroadcastChannel("rain-sieve bench");
  if (alone) {
    document.body.classList.add("alone");
    channel.onmessage = (event) => {
      const { shown, fields } = event.data;
      if (shown !== id) {
        location.replace("/frames/" + shown + "?alone");
        return;
      }
      if (NAMES.some((name) => !same(name, fields[name], value(name)))) {
        put(fields);
        cards.dispatchEvent(new Event("input"));
      }
    };
    channel.postMessage({ opened: id });
  } else {
    const tell = () => channel.postMessage({ shown: id, fields: now() });
    root.addEventListener("rests", tell);
    channel.onmessage = (event) => {
      if (event.data.opened) tell();
    };
    $("[data-alone]").addEventListener("click", () => window.open(frame + "?alone", "rain-sieve-picture", "popup,width=1280,height=860"));
  }

  // ---- as it was left: the same step open, the same rows, and what was not applied
  for (const [name, open] of Object.entries(kept.get().more || {})) more(cards.querySelector("[data-body=" + name + "]"), open);
  unfold(kept.get().folded ? "" : opened);
  const open = alone ? null : pending.of(id);
  if (open) put(open);
  last = now();
  follow();
  showStanding();
  sieve.begin();
  async function askState() {
    const answer = await fetch(frame + "/state", { headers: { Accept: "application/json" } });
    if (answer.ok) taken(await answer.json());
    follow();
    showStanding();
  }
  root.addEventListener("kept-beside", askState);
})();
