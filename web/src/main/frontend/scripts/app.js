// Shared by all pages: keys, appearance, the header's worker line, and what the Shoots, Shoot and Run pages do.

import { habit } from "./lib/kept.js";
import { onKey } from "./lib/keys.js";
import { bytes, duration, post, text, token } from "./lib/page.js";

document.addEventListener("alpine:init", () => {
  Alpine.data("workers", () => ({
    line: "",
    each: [],
    init() {
      const ask = async () => {
        try {
          const answer = await (await fetch("/workers")).json();
          this.each = answer.each;
          this.line =
            answer.workers === 0
              ? "no worker is running"
              : answer.workers +
                (answer.workers === 1 ? " worker, " : " workers, ") +
                (answer.busy === 0 ? "idle" : answer.workers === 1 ? "busy" : answer.busy + " busy");
        } catch (e) {
          this.line = "Rain Sieve does not answer";
        }
      };
      ask();
      setInterval(ask, 4000);
    },
  }));

  // Chooses folders of the whole machine, for the set-up.
  Alpine.data("setUp", () => ({
    field: null,
    path: "/",
    above: "",
    folders: [],
    problem: "",
    get canGoUp() {
      return this.above !== "";
    },
    get empty() {
      return this.folders.length === 0;
    },
    get emptyText() {
      return this.problem || "no folders below this one";
    },
    get several() {
      return this.field !== null && this.field.name === "SIEVE_ROOTS";
    },
    get takeLabel() {
      return this.several && this.field.value.trim() ? "Add this folder" : "Take this folder";
    },
    choose(event) {
      this.field = document.getElementById(event.target.dataset.field);
      this.$refs.dialog.showModal();
      const known = this.field.value.split(",")[0].trim();
      this.list(known || "/");
    },
    close() {
      this.$refs.dialog.close();
    },
    async list(path) {
      const answer = await fetch("/set-up/folders?" + new URLSearchParams({ path }));
      const told = answer.ok ? await answer.json() : { path, up: "", folders: [] };
      this.problem = answer.ok ? "" : "This folder cannot be listed.";
      Object.assign(this, { path: told.path, above: told.up, folders: told.folders });
    },
    enter(folder) {
      this.list(this.path === "/" ? "/" + folder : this.path + "/" + folder);
    },
    up() {
      this.list(this.above);
    },
    take() {
      const before = this.field.value.trim();
      this.field.value = this.several && before ? before + "," + this.path : this.path;
      this.close();
      this.field.focus();
    },
  }));

  Alpine.data("takeIn", () => ({
    root: -1,
    path: "",
    folders: [],
    busy: false,
    get where() {
      return this.root < 0 ? "Allowed folders" : this.rootName + (this.path ? "/" + this.path : "");
    },
    get canGoUp() {
      return this.root >= 0;
    },
    get empty() {
      return this.folders.length === 0;
    },
    get emptyText() {
      return this.busy ? "listing…" : "no folders below this one";
    },
    get nothingChosen() {
      return this.root < 0;
    },
    get suggestedName() {
      return this.path ? this.path.split("/").pop() : "";
    },
    rootName: "",
    open() {
      this.$refs.dialog.showModal();
      this.root = -1;
      this.path = "";
      this.list();
    },
    close() {
      this.$refs.dialog.close();
    },
    async list() {
      this.busy = true;
      this.folders = [];
      const query = new URLSearchParams({ root: this.root, path: this.path });
      const answer = await fetch("/folders?" + query);
      this.folders = answer.ok ? await answer.json() : [];
      this.busy = false;
    },
    enter(folder) {
      if (this.root < 0) this.rootName = folder.name;
      this.root = folder.root;
      this.path = folder.path;
      this.list();
    },
    up() {
      if (this.path === "") this.root = -1;
      this.path = this.path.includes("/") ? this.path.slice(0, this.path.lastIndexOf("/")) : "";
      this.list();
    },

    // Files dropped or chosen are copied one after the other into a shoot of their own.
    hovering: false,
    uploading: false,
    cancelled: false,
    share: 0,
    uploadLine: "",
    problems: [],
    request: null,
    notice: "",
    shootPage: "",
    cards: [],
    looking: false,
    copying: 0,
    get noCards() {
      return this.cards.length === 0;
    },
    get cardsText() {
      return this.looking ? "looking for cards…" : "There is no card in the reader: no mounted folder holds a DCIM folder.";
    },
    async openCards() {
      this.$refs.cards.showModal();
      this.looking = true;
      this.cards = [];
      const answer = await fetch("/intake/cards");
      this.cards = (answer.ok ? await answer.json() : []).map((card) => ({
        ...card,
        line: card.files + " files, " + (card.bytes / 1e6).toFixed(0) + " MB",
        verb: card.goesOn ? "Go on" : "Copy",
      }));
      this.looking = false;
    },
    closeCards() {
      this.$refs.cards.close();
    },
    async copy(card) {
      this.closeCards();
      const begun = await post("/intake/cards?card=" + card.index);
      Object.assign(this, { uploading: true, share: 0, problems: [], notice: "", shootPage: "", uploadLine: "" });
      if (!begun.ok) {
        this.problems = [await begun.text()];
        return;
      }
      let job = await begun.json();
      this.copying = job.id;
      const started = performance.now();
      while (!job.done) {
        this.share = job.bytes > 0 ? job.bytesDone / job.bytes : 0;
        const seconds = (performance.now() - started) / 1000;
        this.uploadLine =
          job.copied +
          job.already +
          " of " +
          job.files +
          " files" +
          (this.share > 0.02 ? ", " + duration(seconds / this.share - seconds) + " left" : "");
        await new Promise((done) => setTimeout(done, 400));
        const answer = await fetch("/intake/copies/" + job.id);
        if (answer.ok) job = await answer.json();
      }
      this.copying = 0;
      this.share = job.bytes > 0 ? job.bytesDone / job.bytes : 1;
      this.problems = job.problems;
      this.uploadLine = job.copied + " copied and compared" + (job.already > 0 ? ", " + job.already + " there already" : "");
      this.notice = job.readAgain.length > 0 ? "Read again after a first failure: " + job.readAgain.join(", ") : "";
      this.shootPage = "/shoots/" + job.shoot;
    },
    get cancelLabel() {
      return this.request || this.copying ? "Cancel" : "Close";
    },
    over() {
      this.hovering = true;
    },
    out() {
      this.hovering = false;
    },
    drop(event) {
      this.hovering = false;
      this.upload([...event.dataTransfer.files]);
    },
    choose() {
      this.$refs.files.click();
    },
    chosen() {
      this.upload([...this.$refs.files.files]);
    },
    cancel() {
      if (this.copying) {
        post("/intake/copies/" + this.copying + "/cancel");
      } else if (this.request) this.request.abort();
      else this.uploading = false;
      this.cancelled = true;
    },
    async upload(files) {
      if (files.length === 0 || this.request) return;
      Object.assign(this, { uploading: true, cancelled: false, share: 0, problems: [], notice: "", shootPage: "" });
      const begun = await post("/intake/uploads", new URLSearchParams());
      if (!begun.ok) {
        this.problems = [await begun.text()];
        return;
      }
      const shoot = (await begun.json()).shoot;
      const total = files.reduce((sum, file) => sum + file.size, 0) || 1;
      const started = performance.now();
      let before = 0,
        brought = 0;
      for (const file of files) {
        if (this.cancelled) break;
        const problem = await this.put(shoot, file, token(), (loaded) => {
          this.share = (before + loaded) / total;
          const seconds = (performance.now() - started) / 1000;
          const left = this.share > 0.02 ? ", " + duration(seconds / this.share - seconds) + " left" : "";
          this.uploadLine = brought + " of " + files.length + " files" + left;
        });
        before += file.size;
        if (problem) this.problems.push(file.name + ": " + problem);
        else brought++;
      }
      this.request = null;
      this.share = this.cancelled ? this.share : 1;
      this.uploadLine = brought + " of " + files.length + " files taken in";
      if (brought > 0 && this.problems.length === 0 && !this.cancelled) location.href = "/shoots/" + shoot;
    },
    put(shoot, file, token, progress) {
      return new Promise((done) => {
        const request = new XMLHttpRequest();
        this.request = request;
        request.open("POST", "/intake/uploads/" + shoot + "?name=" + encodeURIComponent(file.name));
        request.setRequestHeader("X-CSRF-TOKEN", token);
        request.setRequestHeader("Content-Type", "application/octet-stream");
        request.upload.onprogress = (event) => progress(event.loaded);
        request.onload = () => done(request.status === 200 ? "" : request.responseText.slice(0, 300) || "could not be taken");
        request.onerror = () => done("Rain Sieve does not answer.");
        request.onabort = () => done("cancelled");
        request.send(file);
      });
    },
  }));

  // What is prepared and comes by itself; a shoot that is new is shown.
  Alpine.data("underWay", () => ({
    init() {
      const timer = setInterval(async () => {
        const answer = await fetch("/under-way");
        if (!answer.ok) return;
        const told = await answer.json();
        if (told.shoots !== Number(this.$root.dataset.shoots) || told.words === "") {
          clearInterval(timer);
          location.reload();
        } else text(this.$refs.words, told.words);
      }, 3000);
    },
  }));

  // Originals that are no longer where they were taken in.
  Alpine.data("missing", () => ({
    known: false,
    line: "",
    async init() {
      const answer = await fetch("/shoots/" + this.$root.dataset.id + "/missing");
      const names = answer.ok ? await answer.json() : [];
      if (names.length === 0) return;
      this.known = true;
      this.line =
        "■ " +
        (names.length === 1 ? "1 original is" : names.length + " originals are") +
        " not where they were: " +
        names.slice(0, 3).join(", ") +
        (names.length > 3 ? "…" : "");
    },
  }));

  Alpine.data("shoot", () => ({
    reading: "",
    init() {
      const unread = Number(this.$root.dataset.unread);
      let frames = Number(this.$root.dataset.frames);
      let unseen = unread;
      const watched = this.$root.dataset.watched === "true";
      if (unread === 0 && !watched) return;
      if (unread > 0) this.reading = "reading, " + unread + " to go";
      const timer = setInterval(
        async () => {
          const answer = await fetch("/shoots/" + this.$root.dataset.id + "/standing");
          if (!answer.ok) return;
          const standing = await answer.json();
          if (standing.unread > 0) this.reading = "reading, " + standing.unread + " to go";
          if (standing.unread === 0 && (unread > 0 || standing.frames > frames)) {
            clearInterval(timer);
            location.reload();
          } else if (standing.unseen < unseen || standing.frames > frames) {
            unseen = standing.unseen;
            frames = standing.frames;
            dispatchEvent(new Event("frames-looked-at"));
          }
        },
        unread > 0 ? 700 : 4000,
      );
    },
  }));

  // A pattern for names, with what it makes of the shoot's first frame.
  Alpine.data("naming", () => ({
    example: "",
    problem: "",
    asked: 0,
    init() {
      this.ask();
    },
    async ask() {
      const number = ++this.asked;
      const answer = await fetch("/shoots/" + this.$root.dataset.shoot + "/name?pattern=" + encodeURIComponent(this.$refs.pattern.value));
      const body = answer.ok
        ? await answer.json()
        : new DOMParser().parseFromString(await answer.text(), "text/html").querySelector("[data-sentence]");
      if (number !== this.asked) return;
      this.problem = answer.ok ? "" : "■ " + (body ? body.textContent : "no example now");
      this.example = answer.ok ? body.name : "";
    },
  }));

  // Whether a return was made by what is installed now.
  Alpine.data("made", () => ({
    words: "",
    async init() {
      const answer = await fetch("/returns/" + this.$root.dataset.id + "/made");
      if (answer.ok) this.words = (await answer.json()).words;
    },
  }));

  // A path to the clipboard; where a browser does not let pages do that, it is selected to be copied by hand.
  Alpine.data("copies", () => ({
    label: "copy the path",
    async copy() {
      try {
        await navigator.clipboard.writeText(this.$root.dataset.text);
        this.label = "copied";
      } catch {
        getSelection().selectAllChildren(this.$root.previousElementSibling);
        this.label = "selected: press Ctrl+C";
      }
    },
  }));

  // A form that is sent with its first change.
  Alpine.data("atOnce", () => ({
    init() {
      this.$root.addEventListener("change", () => this.$root.requestSubmit());
    },
  }));

  // One reading at a time is told in words: the one pointed at, or the next by the arrow keys.
  Alpine.data("noiseChart", () => ({
    told: "a reading: point at it, or use the arrow keys on the chart",
    at: -1,
    tell(circle) {
      this.$refs.chart
        .querySelectorAll("circle")
        .forEach((other) => other.setAttribute("fill", other === circle ? "var(--color-brass)" : "none"));
      this.told = circle.querySelector("title").textContent;
    },
    point(event) {
      const circle = event.target.closest("circle");
      if (circle) this.tell(circle);
    },
    step(event) {
      const by = { ArrowRight: 1, ArrowLeft: -1 }[event.key];
      const circles = [...this.$refs.chart.querySelectorAll("circle")];
      if (!by || circles.length === 0) return;
      circles.sort((p, q) => p.getAttribute("cx") - q.getAttribute("cx"));
      this.at = Math.min(circles.length - 1, Math.max(0, this.at + by));
      this.tell(circles[this.at]);
      event.preventDefault();
      event.stopPropagation();
    },
  }));

  Alpine.data("focusMap", () => ({
    shown: false,
    get label() {
      return this.shown ? "Hide focus map" : "Show focus map";
    },
    toggle() {
      this.shown = !this.shown;
      this.$refs.map.toggleAttribute("hidden", !this.shown);
    },
  }));

  // A slider and a number that show the same amount; the number is what is sent.
  Alpine.data("amount", () => ({
    init() {
      this.type();
    },
    type() {
      this.$refs.range.value = this.$refs.number.value;
    },
    slide() {
      this.$refs.number.value = this.$refs.range.value;
      this.$refs.number.dispatchEvent(new Event("change", { bubbles: true }));
    },
  }));

  Alpine.data("bookFile", () => ({
    choose() {
      this.$refs.file.click();
    },
    async read() {
      const file = this.$refs.file.files[0];
      if (!file) return;
      this.$refs.text.value = await file.text();
      this.$root.submit();
    },
  }));

  // The ladder's handles and the form's numbers are two views of the same amounts.
  Alpine.data("ladder", () => ({
    init() {
      const form = this.$root;
      const svg = form.querySelector("[data-ladder]");
      const handles = [...svg.querySelectorAll("[data-handle]")];
      const floor = 190,
        top = 14;
      const input = (handle) => form.querySelectorAll('[name="' + handle.dataset.handle + '"]')[Number(handle.dataset.index)];
      const redraw = (name) => {
        const own = handles.filter((handle) => handle.dataset.handle === name);
        let path = "";
        for (const handle of own) {
          const value = Math.min(100, Math.max(0, Number(input(handle).value) || 0));
          const y = floor - ((floor - top) * value) / 100;
          handle.setAttribute("transform", "translate(" + handle.dataset.x + " " + y.toFixed(1) + ")");
          handle.setAttribute("aria-valuenow", value);
          if (path === "") path = "M52 " + y.toFixed(1);
          path += "L" + handle.dataset.x + " " + y.toFixed(1);
        }
        svg.querySelector('[data-line="' + name + '"]').setAttribute("d", path + "H604");
      };
      const set = (handle, value) => {
        input(handle).value = Math.round(Math.min(100, Math.max(0, value)));
        redraw(handle.dataset.handle);
      };
      for (const handle of handles) {
        handle.addEventListener("pointerdown", (event) => {
          handle.setPointerCapture(event.pointerId);
          handle.focus();
          event.preventDefault();
        });
        handle.addEventListener("pointermove", (event) => {
          if (!handle.hasPointerCapture(event.pointerId)) return;
          const box = svg.getBoundingClientRect();
          const y = ((event.clientY - box.top) * 230) / box.height;
          set(handle, (100 * (floor - y)) / (floor - top));
        });
        handle.addEventListener("keydown", (event) => {
          const step = { ArrowUp: 1, ArrowRight: 1, ArrowDown: -1, ArrowLeft: -1, PageUp: 10, PageDown: -10 }[event.key];
          if (step === undefined) return;
          set(handle, Number(input(handle).value) + step);
          event.preventDefault();
          event.stopPropagation();
        });
      }
      form.addEventListener("input", (event) => {
        if (event.target.name === "grainKept" || event.target.name === "colourNoiseKept") redraw(event.target.name);
      });
    },
  }));

  Alpine.data("run", () => ({
    init() {
      if (this.$root.dataset.open !== "true") return;
      const root = this.$root;
      const source = new EventSource("/runs/" + root.dataset.id + "/events?since=" + encodeURIComponent(root.dataset.since));
      source.onmessage = (event) => show(root, JSON.parse(event.data), source);
      source.onerror = () => text(root.querySelector("[data-left]"), "waiting for Rain Sieve to answer…");
    },
  }));
});

function show(root, data, source) {
  const run = data.run;
  text(root.querySelector("[data-standing]"), data.standing);
  root.querySelector("[data-progress]").value = run.megapixels > 0 ? run.megapixelsDone / run.megapixels : 0;
  text(
    root.querySelector("[data-counts]"),
    run.returned +
      " of " +
      run.items +
      (run.items === run.frames ? "" : " files of " + run.frames) +
      (run.frames === 1 ? " frame · " : " frames · ") +
      run.megapixelsDone.toFixed(1) +
      " of " +
      run.megapixels.toFixed(1) +
      " MP",
  );
  text(root.querySelector("[data-speed]"), data.speed > 0 ? data.speed.toFixed(1) + " MP/s" : "");
  text(root.querySelector("[data-space]"), data.bytesInAll > 0 ? bytes(run.returnsBytes) + " of about " + bytes(data.bytesInAll) : "");
  const left = data.secondsLeft;
  text(
    root.querySelector("[data-left]"),
    run.state === "paused"
      ? "paused"
      : left > 0
        ? "about " +
          duration(left) +
          " left (" +
          duration(left * (1 - data.uncertainty)) +
          " to " +
          duration(left * (1 + data.uncertainty)) +
          ")"
        : "",
  );
  const halted = root.querySelector("[data-halted]");
  if (halted) {
    text(halted, run.halted ? "▲ " + run.halted : "");
    halted.hidden = !run.halted;
  }
  for (const item of data.items) {
    const row = root.querySelector('[data-item="' + item.id + '"]');
    if (!row) continue;
    const state = row.querySelector("[data-state]");
    text(
      state,
      item.state === "failed" ? "■ failed" : item.state === "taken" ? "running " + Math.round(item.progress * 100) + " %" : item.state,
    );
    state.classList.toggle("text-fail", item.state === "failed");
    text(row.querySelector("[data-reason]"), item.reason || "");
    if (item.state === "returned") {
      const link = row.querySelector("[data-return]");
      link.href = "/returns/" + item.id;
      text(link, item.returnName);
      text(row.querySelector("[data-noise]"), item.noiseLeft == null ? "" : Math.round(item.noiseLeft * 100) + " %");
      text(row.querySelector("[data-size]"), item.sizeBytes == null ? "" : (item.sizeBytes / 1e6).toFixed(1) + " MB");
      text(row.querySelector("[data-seconds]"), item.seconds == null ? "" : item.seconds.toFixed(1) + " s");
    }
  }
  const drops = document.getElementById("column-drops");
  if (drops) {
    drops.dataset.ready = run.waiting + run.taken;
    drops.dataset.returned = run.returned;
    drawColumn(drops);
    text(document.getElementById("column-returned"), String(run.returned));
  }
  if (run.waiting + run.taken === 0) {
    source.close();
    location.reload();
  }
}

// Frames in the column: as many short strokes as frames (at most 60 in each part), always at the same places.
function drawColumn(group) {
  const strokes = [];
  let seed = 7;
  const random = () => (seed = (seed * 16807) % 2147483647) / 2147483647;
  const part = (count, top, bottom) => {
    for (let i = 0; i < Math.min(60, count); i++)
      strokes.push("M" + (13 + random() * 74).toFixed(1) + " " + (top + random() * (bottom - top)).toFixed(1) + "v7");
  };
  const taken = Number(group.dataset.taken),
    ready = Number(group.dataset.ready),
    returned = Number(group.dataset.returned);
  part(Math.max(0, taken - ready - returned), 10, 66);
  part(Math.max(0, ready), 92, 134);
  part(returned, 324, 370);
  let path = group.querySelector("path");
  if (!path) {
    path = document.createElementNS("http://www.w3.org/2000/svg", "path");
    group.appendChild(path);
  }
  path.setAttribute("d", strokes.join(""));
}

(function keys() {
  let afterG = 0;
  onKey((key, event) => {
    if (key === "?") return (document.getElementById("keys").showModal(), true);
    const low = key.toLowerCase();
    if (Date.now() - afterG < 1500) {
      const to = { s: "/shoots", b: "/book", r: "/runs", c: "/catalogue" }[low];
      afterG = 0;
      if (to) location.href = to;
      event.stopImmediatePropagation();
      return true;
    }
    if (low === "g") afterG = Date.now();
    const start = document.querySelector("[data-start]:not(:disabled)");
    if (low === "r" && start) return (start.focus(), true);
    if (low === "d") return (document.querySelector("[data-appearance]")?.click(), true);
    const change = document.querySelector({ u: "[data-undo]", U: "[data-redo]" }[key] || "[data-none]");
    if (change) return (change.click(), true);
    return false;
  });
  document.addEventListener("click", (event) => {
    if (event.target.closest("[data-keys-button]")) document.getElementById("keys").showModal();
  });
  const column = document.getElementById("column-drops");
  if (column) drawColumn(column);
})();

// Light, dark, or as the system has it; kept on this browser.
(function appearance() {
  const button = document.querySelector("[data-appearance]"),
    root = document.documentElement;
  const dark = matchMedia("(prefers-color-scheme: dark)");
  const show = () => {
    const chosen = habit.get("appearance");
    if (chosen) root.dataset.appearance = chosen;
    else delete root.dataset.appearance;
    text(button, (chosen || (dark.matches ? "dark" : "light")) === "dark" ? "◐ dark" : "◐ light");
    dispatchEvent(new Event("appearance"));
  };
  button?.addEventListener("click", () => {
    const now = root.dataset.appearance || (dark.matches ? "dark" : "light"),
      next = now === "dark" ? "light" : "dark";
    // What the system says needs no choice of its own.
    habit.set("appearance", (next === "dark") === dark.matches ? null : next);
    show();
  });
  dark.addEventListener("change", show);
  show();
})();

// The dialog of a return from which copies are delivered: only the options of the chosen form are shown.
(function deliver() {
  const dialog = document.querySelector("[data-deliver-dialog]");
  if (!dialog) return;
  const of = dialog.querySelector("[data-deliver-of]");
  document.querySelector("[data-deliver-button]").addEventListener("click", () => {
    if (of) {
      const ticked = document.querySelectorAll("input[name=items]:checked").length;
      text(of.querySelector("[data-ticked]"), "(" + ticked + ")");
      of.querySelector("[value=" + (ticked ? "ticked" : "all") + "]").checked = true;
    }
    dialog.showModal();
  });
  dialog.querySelector("[data-deliver-close]").addEventListener("click", () => dialog.close());
  dialog.querySelector("[data-deliver-form]").addEventListener("change", (event) => {
    dialog.querySelectorAll("[data-for]").forEach((part) => {
      part.hidden = part.dataset.for !== event.target.value;
    });
  });
})();
