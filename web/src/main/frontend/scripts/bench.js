"use strict";
// The bench beside its picture: what differs from the rung, finer steps, what is measured in view, the preview of a wider change.

(function bench() {
  const root = document.querySelector("[data-viewer=bench]");
  if (!root) return;
  const sieve = root.sieve, cards = root.querySelector("[data-steps]"), frame = "/frames/" + root.dataset.frame;
  const value = (field) => (field.type === "number" ? Number(field.value) : field.value);
  const rung = (field) => (field.type === "number" ? Number(field.dataset.rung) : field.dataset.rung);

  function differences() {
    for (const card of cards.querySelectorAll("[data-rung-on]")) {
      const on = card.querySelector(".mesh input");
      let any = String(on.checked) !== card.dataset.rungOn;
      for (const field of card.querySelectorAll("[data-rung]")) {
        const differs = value(field) !== rung(field);
        field.classList.toggle("differs", differs);
        any ||= differs;
      }
      card.querySelector("[data-back]").hidden = !any;
    }
  }
  cards.addEventListener("input", differences);
  cards.addEventListener("change", differences);
  for (const back of cards.querySelectorAll("[data-back]")) back.addEventListener("click", () => {
    const card = back.closest("[data-rung-on]");
    card.querySelector(".mesh input").checked = card.dataset.rungOn === "true";
    for (const field of card.querySelectorAll("[data-rung]")) {
      field.value = field.dataset.rung;
      field.dispatchEvent(new Event("input", { bubbles: true }));
    }
    differences();
  });
  differences();

  // Arrow keys change an amount by its step; a comma halves the step.
  const steps = new WeakMap();
  root.addEventListener("keydown", (event) => {
    const field = event.target;
    if (field.type !== "number") return;
    if (event.key === ",") {
      const step = (steps.get(field) || 1) / 2;
      steps.set(field, step < 0.1 ? 1 : step);
      field.title = "arrow keys change it by " + steps.get(field);
      event.preventDefault();
    } else if (event.key === "ArrowUp" || event.key === "ArrowDown") {
      const next = Number(field.value) + (event.key === "ArrowUp" ? 1 : -1) * (steps.get(field) || 1);
      const least = field.min === "" ? -Infinity : Number(field.min), most = field.max === "" ? Infinity : Number(field.max);
      field.value = Math.round(1000 * Math.min(most, Math.max(least, next))) / 1000;
      field.dispatchEvent(new Event("input", { bubbles: true }));
      event.preventDefault();
    }
  });

  // What is measured on the region in view; only where the picture is shown pixel for pixel or larger.
  let asking = 0, last = "";
  async function measure() {
    const view = document.getElementById("view");
    const place = sieve.inView();
    const where = "?x=" + place.x + "&y=" + place.y + "&w=" + place.w + "&h=" + place.h + sieve.asked.after;
    const wanted = where + view.hidden + sieve.state.over;
    if (wanted === last || place.w < 1 || place.h < 1 || document.hidden) return;
    last = wanted;
    const mine = ++asking, who = "&viewer=" + sieve.viewerId + "&asked=" + mine;
    if (!view.hidden) {
      const answer = await fetch(frame + "/histogram" + where + who);
      if (mine !== asking) return;
      if (answer.ok) drawHistogram(await answer.json());
    }
    const close = sieve.scale() >= 1 && place.w * place.h <= 3e6;
    let figures = null;
    if (close) {
      const answer = await fetch(frame + "/figures" + where + who);
      if (mine !== asking) return;
      if (answer.ok) figures = await answer.json();
    }
    const m = figures?.measured, percent = (v) => Math.round(v) + " %";
    text("[data-effect=denoise]", m ? "in view: noise left " + percent(m.noiseLeftPercent) + ", structure taken " + percent(m.structureOutPercent) : "in view: from 100 % on");
    text("[data-effect=sharpen]", m && cards.elements.sharpen.checked ? "in view: overshoot " + percent(m.overshootPercent) : "");
    text("[data-seconds]", figures?.seconds ? "≈ " + (figures.seconds < 10 ? figures.seconds.toFixed(1) : Math.round(figures.seconds)) + " s a frame" : "");
    text("[data-taken-number]", sieve.state.over === "taken" ? (m ? "Structure in it: " + percent(m.structureOutPercent) + " of the noise’s sd. Grain alone has none; outlines of the subject tell of lost detail." : "Its number is measured from 100 % on.") : "");
  }
  const text = (selector, words) => { root.querySelector(selector).textContent = words; };
  root.addEventListener("rests", measure);
  root.addEventListener("panels", measure);

  // Red, green and blue told by their lines, for no colour stands near the picture.
  function drawHistogram(data) {
    const svg = root.querySelector("[data-histogram]"), left = 6, right = 290, floor = 96, bins = data.counts[0].length;
    const most = Math.max(1, ...data.counts.flat());
    const x = (bin) => right - ((bin + 0.5) / bins) * (right - left), y = (n) => floor - (Math.log1p(n) / Math.log1p(most)) * (floor - 8);
    const path = (counts) => counts.map((n, bin) => (bin ? "L" : "M") + x(bin).toFixed(1) + " " + y(n).toFixed(1)).join("");
    let inside = '<path d="M' + left + " " + floor + "H" + right + '" stroke="#8a8a8a"/>';
    for (let stop = 0; stop <= 14; stop += 2) inside += '<path d="M' + x(stop * 4 - 0.5) + " " + floor + 'v4" stroke="#8a8a8a"/><text x="' + x(stop * 4 - 0.5) + '" y="' + (floor + 16) + '" font-size="10" text-anchor="middle" fill="#5c5c5c">' + (stop ? "−" + stop : "0") + "</text>";
    ["4 2", "", "1 2"].forEach((dash, c) => { inside += '<path d="' + path(data.counts[c]) + '" fill="none" stroke="#222" stroke-width="' + (c === 1 ? 1.5 : 1) + '" stroke-dasharray="' + dash + '"/>'; });
    svg.innerHTML = inside;
    text("[data-histogram-words]", "stops below clipping; red – –, green —, blue ···. Clipped " + data.clippedPercent.toFixed(2) + " %, at or below black " + data.emptyPercent.toFixed(2) + " %");
  }

  // A wider change is shown on three frames before it is written.
  const dialog = root.querySelector("[data-widen]");
  let agreed = false;
  cards.addEventListener("submit", async (event) => {
    const target = cards.elements.target.value;
    if (agreed || event.submitter?.hasAttribute("formaction") || target === "frame") return;
    event.preventDefault();
    const [words, count] = cards.querySelector("[name=target]:checked").closest("label").querySelectorAll("span");
    root.querySelector("[data-widen-title]").textContent = "This changes the " + words.textContent.replace(/^a new /, "new ") + ": " + count.textContent;
    const list = root.querySelector("[data-widen-frames]");
    list.textContent = "looking for frames…";
    dialog.showModal();
    const answer = await fetch(frame + "/widen?target=" + target);
    const frames = answer.ok ? await answer.json() : [];
    list.textContent = frames.length ? "" : "No other frame of this shoot follows it now.";
    const asked = sieve.query();
    for (const other of frames) for (const changed of [false, true]) {
      const figure = document.createElement("figure"), image = document.createElement("img"), caption = document.createElement("figcaption");
      image.alt = other.name + (changed ? " as it would be" : " as it is");
      image.src = frame + "/widen/" + other.id + "?target=" + target + "&changed=" + changed + asked;
      caption.textContent = other.name + " · EI " + other.ei.toLocaleString("en") + (changed ? " · then" : " · now");
      figure.append(image, caption);
      list.append(figure);
    }
  });
  root.querySelector("[data-widen-yes]").addEventListener("click", () => { agreed = true; cards.requestSubmit(); });
  root.querySelector("[data-widen-no]").addEventListener("click", () => dialog.close());
})();
