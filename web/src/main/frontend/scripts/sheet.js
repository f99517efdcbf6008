"use strict";
// The contact sheet: only the cards in view exist, so that thousands of frames scroll as a few do.

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
    kept: (f) => f.mark === "keep",
    dropped: (f) => f.mark === "drop",
    rated: (f) => f.rating > 0,
    held: (f) => f.standing === "held back",
    failed: (f) => f.standing === "failed",
  };

  Alpine.data("sheet", () => ({
    all: [], shown: [], line: "loading the frames…", sort: "name", filter: "all", at: -1, across: 1,
    async init() {
      this.cards = new Map();
      this.window = this.$refs.window;
      addEventListener("scroll", () => this.draw(), { passive: true });
      new ResizeObserver(() => this.layOut()).observe(this.window);
      this.window.addEventListener("keydown", (event) => this.key(event));
      this.window.addEventListener("focusin", (event) => {
        const card = event.target.closest("[data-frame]");
        if (card) this.at = Number(card.dataset.at);
      });
      addEventListener("frames-looked-at", () => this.load());
      await this.load();
    },
    async load() {
      const query = new URLSearchParams({ camera: this.$root.dataset.camera || "", iso: this.$root.dataset.iso || "" });
      const answer = await fetch("/shoots/" + this.$root.dataset.id + "/sheet?" + query);
      if (!answer.ok) {
        this.line = "The frames could not be loaded. Load the page again.";
        return;
      }
      this.all = bursts(await answer.json());
      this.choose();
    },
    choose() {
      this.shown = this.all.filter(FILTERS[this.filter]).sort(SORTS[this.sort]);
      const count = (n) => n.toLocaleString("en-GB");
      this.line = this.shown.length === this.all.length
        ? count(this.all.length) + (this.all.length === 1 ? " frame" : " frames")
        : this.shown.length === 0 ? "no frame of " + count(this.all.length) + " is like that"
        : count(this.shown.length) + " of " + count(this.all.length) + " frames";
      this.layOut();
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
      card.dataset.open = "/frames/" + frame.id;
      card.querySelector("a").href = "/frames/" + frame.id;
      card.classList.toggle("opacity-50", frame.mark === "drop");
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
      text(part("burst"), frame.burst || "");
      part("name").title = frame.name + (frame.keywords ? " · " + frame.keywords : "");
      text(part("rating"), frame.rating > 0 ? "★" + frame.rating : "");
      text(part("iso"), [frame.sensitivity, frame.exposure].filter(Boolean).join(" · "));
      text(part("amounts"), frame.amounts);
      part("amounts").title = frame.amounts;
      part("why").toggleAttribute("hidden", frame.stray === "");
      text(part("why"), frame.stray === "" ? "" : "▲ " + frame.stray);
      part("why").title = frame.stray;
      const standing = frame.mark === "drop" ? "dropped" : (frame.mark === "keep" ? "kept, " : "") + frame.standing;
      text(part("standing"), frame.standing === "failed" ? "■ failed" : standing);
      part("standing").className = "block truncate " + (frame.standing === "failed" ? "text-fail" : frame.standing === "returned" ? "text-rain" : "text-quiet");
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
      if (event.ctrlKey || event.metaKey || event.altKey) return;
      const page = this.across * Math.max(1, Math.floor(innerHeight / (CARD.height + CARD.gap)));
      const by = { ArrowRight: 1, ArrowLeft: -1, ArrowDown: this.across, ArrowUp: -this.across, PageDown: page, PageUp: -page }[event.key];
      const mark = { q: "keep", w: "drop" }[event.key.toLowerCase()];
      if (by) this.go(this.at + by);
      else if (event.key === "Home") this.go(0);
      else if (event.key === "End") this.go(this.shown.length - 1);
      else if (mark && this.at >= 0) this.mark(this.shown[this.at], mark);
      else if (event.key === "Enter" && event.target.dataset.open) location.href = event.target.dataset.open;
      else return;
      event.preventDefault();
      event.stopPropagation();
    },
    async mark(frame, mark) {
      const wanted = frame.mark === mark ? "none" : mark;
      const token = document.querySelector("meta[name=csrf]").content;
      const answer = await fetch("/shoots/" + this.$root.dataset.id + "/frames/" + frame.id + "/mark?mark=" + wanted, { method: "POST", headers: { "X-CSRF-TOKEN": token } });
      if (!answer.ok) {
        this.line = "The mark could not be kept. Load the page again.";
        return;
      }
      frame.mark = wanted === "none" ? null : wanted;
      const index = this.shown.indexOf(frame);
      if (this.cards.has(index)) this.fill(this.cards.get(index), frame);
    },
  }));

  // Frames of one camera that follow each other within a second belong to one burst.
  function bursts(frames) {
    const byTime = frames.filter((f) => f.takenAt).sort((p, q) => (p.camera || "").localeCompare(q.camera || "") || p.takenAt.localeCompare(q.takenAt));
    let burst = [];
    const close = () => {
      if (burst.length > 1) burst.forEach((frame, i) => (frame.burst = i + 1 + "/" + burst.length));
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
