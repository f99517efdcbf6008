// The contact sheet: only the cards in view exist, so that thousands of frames scroll as a few do.

import { pending } from "./lib/kept.js";
import { keyFor } from "./lib/keys.js";
import { post, text } from "./lib/page.js";

document.addEventListener("alpine:init", () => {
  const CARD = { width: 176, height: 214, gap: 12 };
  const SORTS = {
    name: (p, q) => p.name.localeCompare(q.name, undefined, { numeric: true }),
    time: (p, q) => (p.takenAt || "").localeCompare(q.takenAt || "") || p.name.localeCompare(q.name),
    ei: (p, q) => p.ei - q.ei || p.name.localeCompare(q.name),
    rating: (p, q) => (q.rating || 0) - (p.rating || 0) || p.name.localeCompare(q.name),
    noise: (p, q) => Math.abs(Math.log(q.noiseOff || 1)) - Math.abs(Math.log(p.noiseOff || 1)) || p.name.localeCompare(q.name),
  };
  const FILTERS = {
    all: () => true,
    strays: (f) => f.stray !== "",
    open: (f) => f.state === "ready" && !f.returned,
    changed: (f) => f.changed,
    kept: (f) => f.mark === "keep",
    dropped: (f) => f.mark === "drop",
    rated: (f) => f.rating > 0,
    held: (f) => f.standing === "held back",
    failed: (f) => f.standing === "failed",
  };

  Alpine.data("sheet", () => ({
    all: [],
    shown: [],
    line: "loading the frames…",
    sort: "name",
    filter: "all",
    at: -1,
    across: 1,
    folded: false,
    hasBursts: false,
    noneChosen: true,
    // Declared here, or they would belong to the page and be shared with the run's form.
    like: [],
    cards: null,
    window: null,
    step: 0,
    chosen: null,
    changedSince: null,
    from: -1,
    banded: false,
    async init() {
      this.cards = new Map();
      this.chosen = new Set(); // numbers of frames
      this.changedSince = new Set();
      this.from = -1; // where a range begins
      this.window = this.$refs.window;
      addEventListener("scroll", () => this.draw(), { passive: true });
      new ResizeObserver(() => this.layOut()).observe(this.window);
      // From the moment the page is there, wherever nobody types.
      document.addEventListener("keydown", (event) => {
        if (event.target.closest("svg a, dialog[open]")) return;
        if (keyFor(event) || (event.ctrlKey && !event.target.closest("input, select, textarea"))) this.key(event);
      });
      this.window.addEventListener("click", (event) => this.click(event));
      this.window.addEventListener("dblclick", (event) => {
        const card = event.target.closest("[data-frame]");
        if (card) location.href = card.dataset.open;
      });
      this.window.addEventListener("auxclick", (event) => {
        const card = event.target.closest("[data-frame]");
        if (card && event.button === 1) open(card.dataset.open);
      });
      this.$root.addEventListener("pointerdown", (event) => this.beginBand(event));
      addEventListener("frames-changed-since", (event) => {
        this.changedSince = new Set(event.detail);
        for (const frame of this.all) frame.changed = this.changedSince.has(frame.id);
        if (this.filter === "changed") this.choose();
        else for (const [index, card] of this.cards) this.fill(card, this.shown[index]);
      });
      this.window.addEventListener("focusin", (event) => {
        const card = event.target.closest("[data-frame]");
        if (card) this.at = Number(card.dataset.at);
      });
      addEventListener("frames-looked-at", () => this.load());
      await this.load();
    },
    async load() {
      const query = new URLSearchParams({
        camera: this.$root.dataset.camera || "",
        iso: this.$root.dataset.iso || "",
        stops: this.$root.dataset.stops || "false",
      });
      const answer = await fetch("/shoots/" + this.$root.dataset.id + "/sheet?" + query);
      if (!answer.ok) {
        this.line = "The frames could not be loaded. Load the page again.";
        return;
      }
      this.all = bursts(await answer.json());
      this.hasBursts = this.all.some((frame) => frame.others);
      for (const frame of this.all) frame.changed = this.changedSince.has(frame.id);
      this.choose();
    },
    // Which frames are shown, in which order.
    choose() {
      const like = this.all.filter(FILTERS[this.filter]).sort(SORTS[this.sort]);
      const seen = new Set();
      this.shown = !this.folded
        ? like
        : like
            .filter((frame) => {
              if (!frame.others) return true;
              if (seen.has(frame.others)) return false;
              seen.add(frame.others);
              return true;
            })
            .map((frame) => (frame.others ? sharpest(frame.others.filter(FILTERS[this.filter])) : frame));
      this.like = like;
      const there = new Set(this.all.map((frame) => frame.id));
      for (const id of [...this.chosen]) if (!there.has(id)) this.chosen.delete(id);
      this.at = Math.min(this.at, this.shown.length - 1);
      this.layOut();
      this.tell();
    },
    // What is chosen and shown, for the line and for whoever runs it.
    tell() {
      const count = (n) => n.toLocaleString("en-GB");
      this.noneChosen = this.chosen.size === 0;
      this.line =
        (this.like.length === this.all.length
          ? count(this.all.length) + (this.all.length === 1 ? " frame" : " frames")
          : this.like.length === 0
            ? "no frame of " + count(this.all.length) + " is like that"
            : count(this.like.length) + " of " + count(this.all.length) + " frames") +
        (this.chosen.size ? ", " + count(this.chosen.size) + " chosen" : "");
      dispatchEvent(new CustomEvent("frames-chosen", { detail: { chosen: [...this.chosen], shown: this.like.map((frame) => frame.id) } }));
    },
    // A card that stands for a burst stands for all of it.
    idsOf(frame) {
      return this.folded && frame.others ? frame.others.filter(FILTERS[this.filter]).map((one) => one.id) : [frame.id];
    },
    put(index, wanted) {
      for (const id of this.idsOf(this.shown[index])) wanted ? this.chosen.add(id) : this.chosen.delete(id);
    },
    isChosen(frame) {
      return this.idsOf(frame).every((id) => this.chosen.has(id));
    },
    chooseAll() {
      this.shown.forEach((frame, index) => this.put(index, true));
      this.refresh();
    },
    chooseNone() {
      this.chosen.clear();
      this.refresh();
    },
    refresh() {
      for (const [index, card] of this.cards) this.fill(card, this.shown[index]);
      this.tell();
    },
    // As everywhere: a click chooses one, Ctrl adds or takes away, Shift reaches from the last one.
    click(event) {
      const card = event.target.closest("[data-frame]");
      if (!card || event.button !== 0) return;
      event.preventDefault();
      if (this.banded) {
        this.banded = false;
        return;
      }
      const index = Number(card.dataset.at);
      if (event.shiftKey && this.from >= 0) this.reach(index, event.ctrlKey || event.metaKey);
      else if (event.ctrlKey || event.metaKey) {
        this.put(index, !this.isChosen(this.shown[index]));
        this.from = index;
      } else {
        const alone = this.chosen.size === this.idsOf(this.shown[index]).length && this.isChosen(this.shown[index]);
        this.chosen.clear();
        if (!alone || event.detail > 1) this.put(index, true);
        this.from = index;
      }
      this.go(index);
      this.refresh();
    },
    reach(index, more) {
      if (!more) this.chosen.clear();
      for (let i = Math.min(this.from, index); i <= Math.min(this.shown.length - 1, Math.max(this.from, index)); i++) this.put(i, true);
    },
    // A rubber band, begun anywhere on the sheet.
    beginBand(event) {
      if (event.button !== 0 || event.pointerType === "touch" || event.target.closest("select, input, button, label")) return;
      const band = this.$refs.band,
        start = { x: event.clientX + scrollX, y: event.clientY + scrollY };
      const before = event.ctrlKey || event.metaKey || event.shiftKey ? new Set(this.chosen) : new Set();
      this.banded = false;
      const move = (e) => {
        const x = e.clientX + scrollX,
          y = e.clientY + scrollY;
        if (!this.banded && Math.hypot(x - start.x, y - start.y) < 8) return;
        this.banded = true;
        e.preventDefault();
        const left = Math.min(x, start.x),
          top = Math.min(y, start.y),
          w = Math.abs(x - start.x),
          h = Math.abs(y - start.y);
        band.hidden = false;
        Object.assign(band.style, { left: left - scrollX + "px", top: top - scrollY + "px", width: w + "px", height: h + "px" });
        const box = this.window.getBoundingClientRect(),
          ox = box.left + scrollX,
          oy = box.top + scrollY,
          row = CARD.height + CARD.gap;
        this.chosen = new Set(before);
        const r0 = Math.max(0, Math.floor((top - oy) / row)),
          r1 = Math.floor((top + h - oy) / row);
        for (let r = r0; r <= r1; r++)
          for (let c = 0; c < this.across; c++) {
            const i = r * this.across + c,
              cx = ox + c * this.step,
              cy = oy + r * row;
            if (i < this.shown.length && cx < left + w && cx + this.step - CARD.gap > left && cy < top + h && cy + CARD.height > top)
              this.put(i, true);
          }
        if (e.clientY > innerHeight - 30) scrollBy(0, 20);
        if (e.clientY < 30) scrollBy(0, -20);
        this.refresh();
      };
      const end = () => {
        band.hidden = true;
        removeEventListener("pointermove", move);
        removeEventListener("pointerup", end);
        removeEventListener("pointercancel", end);
        // A band that ends between the cards is followed by no click.
        setTimeout(() => {
          this.banded = false;
        }, 0);
      };
      addEventListener("pointermove", move);
      addEventListener("pointerup", end);
      addEventListener("pointercancel", end);
    },
    layOut() {
      this.across = Math.max(1, Math.floor((this.window.clientWidth + CARD.gap) / (CARD.width + CARD.gap)));
      this.step = (this.window.clientWidth + CARD.gap) / this.across;
      this.window.style.height = Math.ceil(this.shown.length / this.across) * (CARD.height + CARD.gap) + "px";
      for (const card of this.cards.values()) card.remove();
      this.cards.clear();
      this.draw();
    },
    draw() {
      const top = -this.window.getBoundingClientRect().top;
      const row = CARD.height + CARD.gap;
      const from = Math.max(0, Math.floor(top / row) - 2) * this.across;
      const to = Math.min(this.shown.length, (Math.ceil((top + innerHeight) / row) + 2) * this.across);
      for (const [index, card] of this.cards) {
        if ((index < from || index >= to) && !card.contains(document.activeElement)) {
          card.remove();
          this.cards.delete(index);
        }
      }
      for (let index = from; index < to; index++) if (!this.cards.has(index)) this.add(index);
    },
    add(index) {
      const card = this.$refs.card.content.firstElementChild.cloneNode(true);
      card.dataset.at = index;
      card.style.left = (index % this.across) * this.step + "px";
      card.style.top = Math.floor(index / this.across) * (CARD.height + CARD.gap) + "px";
      card.style.width = this.step - CARD.gap + "px";
      card.style.height = CARD.height + "px";
      this.fill(card, this.shown[index]);
      this.window.append(card);
      this.cards.set(index, card);
      return card;
    },
    fill(card, frame) {
      const part = (name) => card.querySelector("[data-" + name + "]");
      card.setAttribute("aria-label", frame.name + (frame.mark ? ", " + (frame.mark === "keep" ? "kept" : "dropped") : ""));
      card.setAttribute("aria-selected", this.isChosen(frame));
      card.tabIndex = Number(card.dataset.at) === Math.max(0, this.at) ? 0 : -1;
      card.dataset.mark = frame.mark || "";
      card.dataset.open = "/frames/" + frame.id;
      const picture = card.querySelector("img");
      picture.toggleAttribute("hidden", !frame.pictured);
      part("unread").toggleAttribute("hidden", frame.pictured);
      picture.onerror = () => {
        // A picture that had to make room for others is being made again.
        picture.onerror = null;
        setTimeout(() => (picture.src += "&again"), 2500);
      };
      if (frame.pictured) picture.src = "/frames/" + frame.id + "/thumbnail?of=" + frame.state;
      text(part("name"), frame.name);
      text(part("burst"), this.folded && frame.others ? "1 of " + frame.others.length : frame.burst || "");
      part("name").title = frame.name + (frame.keywords ? " · " + frame.keywords : "");
      text(part("rating"), frame.rating > 0 ? "★" + frame.rating : "");
      text(part("iso"), [frame.sensitivity, frame.exposure].filter(Boolean).join(" · "));
      text(part("amounts"), frame.amounts);
      part("amounts").title = frame.amounts;
      part("why").toggleAttribute("hidden", frame.stray === "");
      text(part("why"), frame.stray === "" ? "" : "▲ " + frame.stray);
      part("why").title = frame.stray;
      const standing =
        frame.mark === "drop"
          ? "dropped"
          : (frame.mark === "keep" ? "kept, " : "") +
            frame.standing +
            (frame.changed ? ", changed since" : "") +
            (pending.has(frame.id) ? ", change not applied" : "");
      text(part("standing"), frame.standing === "failed" ? "■ failed" : standing);
      part("standing").title = standing;
      part("standing").className =
        "block truncate " + (frame.standing === "failed" ? "text-fail" : frame.standing === "returned" ? "text-rain" : "text-quiet");
    },
    go(index) {
      if (this.shown.length === 0) return;
      this.at = Math.min(this.shown.length - 1, Math.max(0, index));
      const row = CARD.height + CARD.gap;
      const top = this.window.getBoundingClientRect().top + Math.floor(this.at / this.across) * row;
      if (top < 60 || top + row > innerHeight) scrollBy({ top: top - innerHeight / 3 });
      this.draw();
      (this.cards.get(this.at) || this.add(this.at)).focus({ preventScroll: true });
    },
    key(event) {
      if (event.altKey) return;
      if (event.ctrlKey || event.metaKey) {
        if (event.key.toLowerCase() !== "a") return;
        this.chooseAll();
        return event.preventDefault();
      }
      const page = this.across * Math.max(1, Math.floor(innerHeight / (CARD.height + CARD.gap)));
      const by = { ArrowRight: 1, ArrowLeft: -1, ArrowDown: this.across, ArrowUp: -this.across, PageDown: page, PageUp: -page }[event.key];
      const mark = { q: "keep", w: "drop" }[event.key.toLowerCase()];
      const to = by ? (this.at < 0 ? 0 : this.at + by) : event.key === "Home" ? 0 : event.key === "End" ? this.shown.length - 1 : -1;
      if (by || to >= 0) {
        if (event.shiftKey && this.from < 0) this.from = Math.max(0, this.at);
        this.go(to);
        if (event.shiftKey) {
          this.reach(this.at, false);
          this.refresh();
        } else this.from = this.at;
      } else if (mark) this.markAll(mark);
      else if (event.key.toLowerCase() === "e" && this.shown[this.at]?.others) this.keepOne(this.shown[this.at]);
      else if (event.key === " " && this.at >= 0) {
        this.put(this.at, !this.isChosen(this.shown[this.at]));
        this.from = this.at;
        this.refresh();
      } else if (event.key === "Escape" && this.chosen.size) this.chooseNone();
      else if (event.key === "Enter" && this.shown[this.at]) location.href = "/frames/" + this.shown[this.at].id;
      else return;
      event.preventDefault();
      event.stopPropagation();
    },
    // The frame at hand, or all that are chosen when it is one of them.
    async markAll(mark) {
      const at = this.shown[this.at];
      if (!at && this.chosen.size === 0) return;
      const many =
        !at || this.isChosen(at)
          ? this.all.filter((frame) => this.chosen.has(frame.id))
          : this.all.filter((frame) => this.idsOf(at).includes(frame.id));
      const frames = many.length ? many : [at];
      const wanted = frames.every((frame) => frame.mark === mark) ? "none" : mark;
      await this.mark(frames.map((frame) => [frame, wanted]));
    },
    keepOne(frame) {
      return this.mark(frame.others.map((other) => [other, other === frame ? "keep" : "drop"]));
    },
    async mark(pairs) {
      for (const wanted of new Set(pairs.map((pair) => pair[1]))) {
        const frames = pairs.filter((pair) => pair[1] === wanted).map((pair) => pair[0]);
        const body = new URLSearchParams({ mark: wanted, frames: frames.map((frame) => frame.id).join(",") });
        const answer = await post("/shoots/" + this.$root.dataset.id + "/marks", body);
        if (!answer.ok) {
          this.line = "The mark could not be kept. Load the page again.";
          return;
        }
        for (const frame of frames) frame.mark = wanted === "none" ? null : wanted;
      }
      this.refresh();
    },
  }));

  // In focus and still: the least blur that was read; without any, the first.
  function sharpest(burst) {
    return burst.reduce(
      (best, frame) => (frame.blurPx != null && (best.blurPx == null || frame.blurPx < best.blurPx) ? frame : best),
      burst[0],
    );
  }

  // Frames of one camera that follow each other within a second belong to one burst.
  function bursts(frames) {
    const byTime = frames
      .filter((f) => f.takenAt)
      .sort((p, q) => (p.camera || "").localeCompare(q.camera || "") || p.takenAt.localeCompare(q.takenAt));
    let burst = [];
    const close = () => {
      if (burst.length > 1)
        for (const [i, frame] of burst.entries()) {
          frame.burst = i + 1 + " of " + burst.length;
          frame.others = burst;
        }
      burst = [];
    };
    for (const frame of byTime) {
      const last = burst[burst.length - 1];
      if (last && (last.camera !== frame.camera || Date.parse(frame.takenAt) - Date.parse(last.takenAt) > 1000)) close();
      burst.push(frame);
    }
    close();
    return frames;
  }
});
