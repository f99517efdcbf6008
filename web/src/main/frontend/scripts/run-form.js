// Starting a run: its choices, those of the time before, and what it would do, told before it starts.

import { habit } from "./lib/kept.js";
import { bytes, counted as count, duration, post, text } from "./lib/page.js";

document.addEventListener("alpine:init", () => {
  // A watched folder that starts a standing order by itself.
  Alpine.data("watchOrder", () => ({
    note: "",
    async init() {
      const [orders, chosen] = await Promise.all([fetch("/orders"), fetch("/shoots/" + this.$root.dataset.shoot + "/order")]);
      const named = orders.ok ? (await orders.json()).filter((order) => order.name) : [];
      for (const order of named) this.$refs.orders.add(new Option(order.name, order.id));
      if (chosen.ok) this.$refs.orders.value = String((await chosen.json()).order);
      if (named.length === 0) this.note = "keep choices of a run under a name first";
    },
    async choose() {
      const answer = await post("/shoots/" + this.$root.dataset.shoot + "/order", new URLSearchParams({ order: this.$refs.orders.value }));
      this.note = !answer.ok
        ? "That could not be kept. Load the page again."
        : this.$refs.orders.value === "0"
          ? ""
          : "begins a few seconds after all that came are read";
    },
  }));

  Alpine.data("startRun", () => ({
    by: "",
    tiff: false,
    jpeg: false,
    orders: [],
    hasOrders: false,
    noOrder: true,
    asked: 0,
    // Declared here, or they would belong to the page and be shared with the contact sheet.
    form: null,
    frames: null,
    chosen: [],
    shown: [],
    takenBefore: "KEPT",
    timer: 0,
    get developed() {
      return this.tiff || this.jpeg;
    },
    get unit() {
      return { FACTOR: "times", LONG_EDGE_PX: "px", SHORT_EDGE_PX: "px", PRINT_CM: "cm" }[this.by] || "";
    },
    get print() {
      return this.by === "PRINT_CM";
    },

    async init() {
      this.form = this.$root.querySelector("form");
      this.frames = this.$root.querySelector("[data-take]");
      this.form.addEventListener("change", () => this.changed());
      this.form.addEventListener("input", () => this.soon());
      this.form.addEventListener("submit", () => {
        habit.set("enlarge next", null);
        this.form.elements.frames.value = this.ids().join(",");
      });
      addEventListener("frames-chosen", (event) => this.choose(event.detail));
      // A page that the browser brings back is another form: it may start another run.
      addEventListener("pageshow", (event) => {
        if (event.persisted) this.renew();
      });
      await this.load();
      this.changed();
    },
    renew() {
      this.form.elements.once.value = Date.now().toString(36) + "-" + Math.random().toString(36).slice(2);
      this.changed();
    },

    // ---- standing orders
    async load() {
      const answer = await fetch("/orders");
      this.orders = answer.ok ? await answer.json() : [];
      const named = this.orders.filter((order) => order.name);
      const select = this.$root.querySelector("[data-order]");
      select.replaceChildren(new Option("as the last time", ""), ...named.map((order) => new Option(order.name, order.id)));
      this.hasOrders = named.length > 0;
      const last = this.orders.find((order) => !order.name);
      if (last) this.fill(last.choices);
      const chosen = habit.get("enlarge next");
      if (chosen) this.fill({ ...last?.choices, enlargeBy: "FACTOR", enlargeValue: chosen.value, edges: chosen.edges });
    },
    order(event) {
      const chosen = this.orders.find((order) => String(order.id) === event.target.value) || this.orders.find((order) => !order.name);
      this.noOrder = !event.target.value;
      if (chosen) this.fill(chosen.choices);
    },
    async forget() {
      const select = this.$root.querySelector("[data-order]");
      if (!select.value) return;
      await post("/orders/" + select.value + "/forget");
      this.noOrder = true;
      await this.load();
      this.changed();
    },
    // What was chosen for that place the last time.
    place(event) {
      const last = this.orders.find((order) => !order.name && order.destination === event.target.value);
      if (last) this.fill(last.choices);
    },
    fill(choices) {
      const set = (name, value) => {
        const field = this.form.elements[name];
        if (!field || value === undefined || value === null) return;
        if (field.type === "checkbox") field.checked = value === true;
        else if (field.tagName !== "SELECT" || [...field.options].some((option) => option.value === String(value))) field.value = value;
      };
      for (const name of ["again", "evenGrain", "blockEdges", "carryEdits", "notePush", "copyOriginals"]) set(name, choices[name] === true);
      for (const name of [
        "destination",
        "enlargeBy",
        "enlargeValue",
        "ppi",
        "edges",
        "outputBite",
        "space",
        "deliveryPpi",
        "quality",
        "longEdge",
      ])
        set(name, choices[name]);
      set("replaces", String(choices.replaces === true));
      if (choices.naming) set("naming", choices.naming);
      for (const box of this.form.querySelectorAll("input[name=forms]")) box.checked = (choices.forms || ["DNG"]).includes(box.value);
      this.by = this.form.elements.enlargeBy.value;
    },
    enlarges(event) {
      const usual = { FACTOR: "2", LONG_EDGE_PX: "8000", SHORT_EDGE_PX: "5000", PRINT_CM: "60" }[event.target.value];
      if (usual) this.form.elements.enlargeValue.value = usual;
    },

    // ---- which frames
    choose(detail) {
      const before = this.chosen.length;
      this.chosen = detail.chosen;
      this.shown = detail.shown;
      const option = (value) => this.frames.querySelector("[value=" + value + "]");
      option("CHOSEN").textContent = "chosen (" + this.chosen.length.toLocaleString("en-GB") + ")";
      option("SHOWN").textContent = "shown (" + this.shown.length.toLocaleString("en-GB") + ")";
      if (before === 0 && this.chosen.length > 0 && this.frames.value !== "CHOSEN") {
        this.takenBefore = this.frames.value;
        this.frames.value = "CHOSEN";
      } else if (this.chosen.length === 0 && this.frames.value === "CHOSEN") {
        this.frames.value = this.takenBefore;
      }
      this.soon();
    },
    takes(event) {
      this.takenBefore = event.target.value === "CHOSEN" ? "KEPT" : event.target.value;
    },
    ids() {
      return { CHOSEN: this.chosen, SHOWN: this.shown }[this.frames.value] || [];
    },

    // ---- what will happen
    soon() {
      clearTimeout(this.timer);
      this.timer = setTimeout(() => this.changed(), 150);
    },
    async changed() {
      clearTimeout(this.timer);
      const form = this.form,
        part = (name) => this.$root.querySelector("[data-" + name + "]");
      this.by = form.elements.enlargeBy.value;
      const forms = [...form.querySelectorAll("input[name=forms]:checked")].map((box) => box.value);
      this.tiff = forms.includes("TIFF");
      this.jpeg = forms.includes("JPEG");
      form.elements.take.value = this.frames.value === "SHOWN" ? "CHOSEN" : this.frames.value;
      const asked = new URLSearchParams(new FormData(form));
      asked.set("frames", this.ids().join(","));
      const mine = ++this.asked;
      let answer;
      try {
        answer = await fetch("/shoots/" + this.$root.dataset.shoot + "/plan", { method: "POST", body: asked });
      } catch (e) {
        return;
      }
      // An answer to what was asked before must not stand over a later one.
      if (mine !== this.asked) return;
      if (!answer.ok) {
        const said = new DOMParser().parseFromString(await answer.text(), "text/html").querySelector("[data-sentence]");
        if (mine !== this.asked) return;
        text(part("plan-problem"), "■ " + (said ? said.textContent : "One of the numbers cannot be read. Correct it."));
        for (const name of ["plan", "left-out", "forecast", "names"]) text(part(name), "");
        part("start").disabled = true;
        return;
      }
      const p = await answer.json();
      if (mine !== this.asked) return;
      this.show(p, part);
      dispatchEvent(new CustomEvent("frames-changed-since", { detail: p.changed }));
    },
    show(p, part) {
      text(part("plan-problem"), "");
      const made = [p.fresh ? p.fresh.toLocaleString("en-GB") + " new" : "", p.again ? p.again.toLocaleString("en-GB") + " again" : ""]
        .filter(Boolean)
        .join(", ");
      text(part("plan"), p.frames === 0 ? "Nothing to do" : count(p.frames, "frame") + ", " + count(p.files, "file") + ": " + made);
      const left = [
        p.upToDate ? p.upToDate.toLocaleString("en-GB") + " up to date" : "",
        p.leftOut.dropped ? p.leftOut.dropped.toLocaleString("en-GB") + " dropped" : "",
        p.leftOut.held ? p.leftOut.held.toLocaleString("en-GB") + " held back" : "",
        p.leftOut.unread ? p.leftOut.unread.toLocaleString("en-GB") + " not read yet" : "",
        p.tooLarge.length
          ? p.tooLarge.length.toLocaleString("en-GB") +
            " cannot be made so large: " +
            p.tooLarge.slice(0, 2).join(", ") +
            (p.tooLarge.length > 2 ? "…" : "")
          : "",
      ]
        .filter(Boolean)
        .join(", ");
      const own = p.ownSize ? count(p.ownSize, "frame") + (p.ownSize === 1 ? " is" : " are") + " as large already and not enlarged" : "";
      text(part("left-out"), [left && "left out: " + left, own].filter(Boolean).join("; "));
      const f = p.forecast,
        short = f.freeBytes >= 0 && f.bytes > f.freeBytes;
      const at = new Date(Date.now() + 1000 * f.seconds);
      const time =
        f.workers === 0
          ? "no worker is running"
          : "about " +
            duration(f.seconds) +
            (f.workers > 1 ? " with " + f.workers + " workers" : "") +
            ", ready by " +
            at.toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" }) +
            (at.toDateString() === new Date().toDateString() ? "" : " on " + at.toLocaleDateString("en-GB", { weekday: "long" })) +
            ({ MACHINE: " (by this machine’s speed)", USUAL: " (not measured here yet)" }[f.restsOn] || "");
      const room = bytes(f.bytes) + (f.freeBytes < 0 ? "" : " of " + bytes(f.freeBytes) + " free");
      text(
        part("forecast"),
        p.frames === 0
          ? ""
          : (short ? "▲ " : "") + f.megapixels.toFixed(1) + " MP · " + time + " · " + room + (short ? ": the run will wait for room" : ""),
      );
      part("forecast").classList.toggle("text-stray", short);
      text(part("names"), p.frames === 0 ? "" : p.first + (p.last && p.last !== p.first ? " … " + p.last : "") + " in " + p.to);
      part("names").title = part("names").textContent;
      part("start").disabled = p.frames === 0;
      text(part("start"), p.frames === 0 ? "Start run" : "Start run of " + count(p.frames, "frame"));
    },
  }));
});
