// Letters of drawings, and Alpine components: the running clock, the board on which parts are dragged and nudged.

// letters of a drawing are 12 px at the least at the size it is shown: how many of its units a pixel is
(() => {
  const measure = (svg) => {
    const scale = svg.getScreenCTM()?.a;
    if (!scale) return;
    svg.style.setProperty("--k", (1 / scale).toFixed(4));
    if (svg.matches(".board")) part(svg);
  };
  // of two labels that lie on each other one is shown, that of the place in hand before all others; each part keeps its own in words
  const part = (svg) => {
    const first = (text) => (text.closest("[data-selected], .here") ? 0 : text.closest(".zone") ? 2 : 1);
    const labels = [...svg.querySelectorAll("text")].sort((a, b) => first(a) - first(b));
    labels.forEach((text) => { text.style.visibility = ""; });
    const shown = [];
    for (const text of labels) {
      const box = text.getBoundingClientRect();
      const over = shown.some((other) => box.left < other.right - 1 && other.left < box.right - 1 && box.top < other.bottom - 3 && other.top < box.bottom - 3);
      if (over) text.style.visibility = "hidden";
      else if (box.width) shown.push(box);
    }
  };
  const watched = new ResizeObserver((all) => all.forEach((one) => measure(one.target)));
  const find = () => document.querySelectorAll("svg[viewBox]").forEach((svg) => {
    // a drawing inside a drawing goes by the outer one
    if (svg.closest(".gable") || svg.parentElement.closest("svg") || !svg.querySelector("text")) return;
    measure(svg);
    watched.observe(svg);
  });
  find();
  document.addEventListener("htmx:afterSettle", find);
})();

document.addEventListener("alpine:init", () => {
  Alpine.data("clock", () => ({
    shown: "",
    init() {
      this.began = Date.parse(this.$el.dataset.since);
      this.tick();
      setInterval(() => this.tick(), 1000);
    },
    tick() {
      const s = Math.max(0, Math.floor((Date.now() - this.began) / 1000));
      const two = (n) => String(n).padStart(2, "0");
      this.shown = `${two(Math.floor(s / 3600))}:${two(Math.floor(s / 60) % 60)}:${two(s % 60)}`;
    },
  }));

  // the gauges of a supply move with the candidate that a pointer or the keyboard is at, before it is taken
  Alpine.data("predict", () => ({
    init() {
      const moves = JSON.parse(this.$el.dataset.moves);
      const look = (event) => {
        const card = event.target.closest("[data-card]");
        if (card && moves[card.dataset.card - 1]) this.show(card.dataset.name, moves[card.dataset.card - 1]);
      };
      document.addEventListener("pointerover", look);
      document.addEventListener("focusin", look);
    },
    show(name, figures) {
      this.$el.querySelector("[data-with]").textContent = name;
      this.$el.querySelectorAll("[data-figure]").forEach((row) => {
        const one = figures[row.dataset.figure];
        if (!one) return;
        const gauge = row.querySelector(".gauge");
        row.querySelectorAll("[data-tag]").forEach((tag) => { tag.hidden = tag.dataset.tag !== one.state; });
        const after = row.querySelector("[data-after]");
        after.textContent = one.after;
        after.classList.toggle("text-brick", one.state === "failed");
        gauge.classList.toggle("failed", one.state === "failed");
        gauge.classList.toggle("passed", one.state === "passed");
        gauge.setAttribute("aria-label", `${row.querySelector("b").textContent}: ${one.words}`);
        row.querySelector(".at")?.setAttribute("x", `${one.at}%`);
      });
    },
  }));

  // three marks over a photo: each follows its slider, and the nearest one follows a finger on the photo
  Alpine.data("stripe", () => ({
    init() {
      this.photo = this.$el.querySelector("svg.stripe-marks");
      if (!this.photo) return;
      this.draw();
      this.photo.addEventListener("pointerdown", (event) => this.move(event, true));
      this.photo.addEventListener("pointermove", (event) => event.buttons && this.move(event, false));
    },
    sliders() {
      return [...this.$el.closest("form").querySelectorAll("input[type=range]")];
    },
    draw() {
      for (const slider of this.sliders()) {
        const line = this.photo.querySelector(`[data-mark="${slider.name}"]`);
        line.setAttribute("x1", slider.value);
        line.setAttribute("x2", slider.value);
      }
    },
    move(event, first) {
      const box = this.photo.getBoundingClientRect();
      const at = ((event.clientX - box.left) / box.width) * this.photo.viewBox.baseVal.width;
      const near = (slider) => Math.abs(Number(slider.value) - at);
      if (first) this.held = this.sliders().sort((a, b) => near(a) - near(b))[0];
      this.held.value = at;
      this.draw();
    },
  }));

  // what is left of a wait; when it is over the page says so, once
  Alpine.data("countdown", () => ({
    shown: "",
    init() {
      this.until = Date.parse(this.$el.dataset.until);
      this.tick();
      this.each = setInterval(() => this.tick(), 1000);
    },
    tick() {
      const s = Math.max(0, Math.ceil((this.until - Date.now()) / 1000));
      const two = (n) => String(n).padStart(2, "0");
      this.shown = s ? `${two(Math.floor(s / 3600))}:${two(Math.floor(s / 60) % 60)}:${two(s % 60)}` : "over";
      if (s) return;
      clearInterval(this.each);
      this.$el.closest(".timer")?.classList.add("over");
    },
  }));

  // A check that was just read is heard, where sound is on: one high tone for passed, two low ones for failed.
  Alpine.data("heard", () => ({
    on: false,
    words: "Sound off",
    init() {
      this.on = localStorage.getItem("sound") === "on";
      this.tell();
      if (this.on) this.play(this.$el.dataset.heard);
    },
    tell() {
      this.words = this.on ? "Sound on" : "Sound off";
    },
    turn() {
      this.on = !this.on;
      localStorage.setItem("sound", this.on ? "on" : "off");
      this.tell();
      if (this.on) this.play("passed");
    },
    play(state) {
      const tones = { passed: [880], failed: [220, 175] }[state];
      if (!tones || !window.AudioContext) return;
      const audio = new AudioContext();
      tones.forEach((pitch, i) => {
        const tone = audio.createOscillator();
        const loud = audio.createGain();
        tone.frequency.value = pitch;
        loud.gain.value = 0.15;
        tone.connect(loud).connect(audio.destination);
        tone.start(audio.currentTime + i * 0.22);
        tone.stop(audio.currentTime + i * 0.22 + 0.16);
      });
      document.documentElement.dataset.heard = state;
    },
  }));

  // The board: parts are dragged, nudged and placed by a click; an empty spot takes a place or a zone into the quick line.
  Alpine.data("board", () => ({
    held: null,
    init() {
      const svg = this.$el;
      this.mirror = Number(svg.dataset.mirror) || 0;
      svg.addEventListener("pointerdown", (e) => this.grab(e));
      svg.addEventListener("pointermove", (e) => this.drag(e));
      svg.addEventListener("pointerup", (e) => this.drop(e));
      svg.addEventListener("dragstart", (e) => e.preventDefault());
      svg.addEventListener("click", (e) => this.moved && e.preventDefault(), true);
      document.addEventListener("keydown", (e) => this.nudge(e));
    },
    point(event) {
      const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(this.inverse);
      return { x: at.x, y: at.y };
    },
    grab(event) {
      this.moved = false;
      if (event.button !== 0) return;
      this.inverse = this.$el.getScreenCTM().inverse();
      const part = event.target.closest("[data-part]");
      const at = this.point(event);
      const from = [event.clientX, event.clientY];
      if (part) this.held = { part, dx: at.x - Number(part.dataset.x), dy: at.y - Number(part.dataset.y), from, row: event.shiftKey, home: [part.dataset.x, part.dataset.y] };
      else if (event.target.closest(".pcb, .under, .chip, .zone, .hole")) this.held = { at, from };
    },
    drag(event) {
      if (!this.held) return;
      const [x, y] = this.held.from;
      if (!this.moved && Math.hypot(event.clientX - x, event.clientY - y) < 4) return;
      if (!this.moved) this.$el.setPointerCapture(event.pointerId);
      this.moved = true;
      this.last = event;
      if (this.frame) return;
      this.frame = requestAnimationFrame(() => {
        this.frame = 0;
        if (this.held) this.follow(this.point(this.last));
      });
    },
    follow(at) {
      const held = this.held;
      if (held.part) return this.put(held.part, at.x - held.dx, at.y - held.dy);
      const band = this.$el.querySelector(".band");
      band.setAttribute("x", Math.min(at.x, held.at.x));
      band.setAttribute("y", Math.min(at.y, held.at.y));
      band.setAttribute("width", Math.abs(at.x - held.at.x));
      band.setAttribute("height", Math.abs(at.y - held.at.y));
      held.to = at;
    },
    put(part, x, y) {
      part.dataset.x = x.toFixed(2);
      part.dataset.y = y.toFixed(2);
      part.setAttribute("transform", `translate(${part.dataset.x} ${part.dataset.y})`);
    },
    drop(event) {
      const held = this.held;
      this.held = null;
      if (!held) return;
      if (this.moved && this.last) {
        this.held = held;
        this.follow(this.point(event));
        this.held = null;
      }
      if (held.part) return this.moved && (held.row ? this.row(held) : this.save(held.part, true));
      if (this.moved) return this.zone(held);
      const waiting = this.$el.querySelector("[data-selected][data-waiting]");
      const line = document.querySelector("[data-line]");
      if (waiting && !line?.value.trim()) {
        this.put(waiting, held.at.x, held.at.y);
        return this.save(waiting, true, waiting.dataset.waiting);
      }
      this.type(`at ${this.board(held.at)}`);
    },
    board(at) {
      return `${Math.round(this.mirror ? this.mirror - at.x : at.x)},${Math.round(at.y)}`;
    },
    zone(held) {
      const to = held.to || held.at;
      const middle = { x: (held.at.x + to.x) / 2, y: (held.at.y + to.y) / 2 };
      const size = [Math.abs(to.x - held.at.x), Math.abs(to.y - held.at.y)].map((n) => Math.max(1, Math.round(n)));
      this.type(`at ${this.board(middle)} ${size.join("x")}`);
    },
    row(held) {
      const part = held.part;
      const last = this.board({ x: Number(part.dataset.x), y: Number(part.dataset.y) });
      this.put(part, Number(held.home[0]), Number(held.home[1]));
      window.location.assign(`${part.getAttribute("href")}&copy_to=${last}`);
    },
    type(text) {
      const line = document.querySelector("[data-line]");
      if (!line) return;
      line.value = `${line.value.replace(/ ?\bat [\d.,]+( [\d.]+x[\d.]+)?/, "").trimEnd()} ${text}`.trimStart();
      line.focus();
      line.dispatchEvent(new Event("input", { bubbles: true }));
    },
    nudge(event) {
      const step = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
      const part = this.$el.querySelector("[data-selected]");
      if (!step || !part || event.target.closest("input, textarea, select, summary") || document.querySelector("dialog[open]")) return;
      event.preventDefault();
      const by = event.shiftKey ? 5 : 0.5;
      this.put(part, Number(part.dataset.x) + step[0] * by, Number(part.dataset.y) + step[1] * by);
      clearTimeout(this.timer);
      this.timer = setTimeout(() => this.save(part, false), 250);
    },
    async save(part, select, next) {
      const body = new URLSearchParams({ x: part.dataset.x, y: part.dataset.y, side: this.$el.dataset.side, seen: part.dataset.seen });
      const token = JSON.parse(document.body.getAttribute("hx-headers"))["X-CSRFToken"];
      const answer = await fetch(part.dataset.put || `/part/${part.dataset.pk}/place/`, { method: "POST", body, headers: { "X-CSRFToken": token, "HX-Request": "true" } });
      if (!answer.ok) {
        const said = document.getElementById("board-said");
        said.textContent = answer.status === 422 ? await answer.text() : "The place could not be kept. Load the page again.";
        said.hidden = false;
        return;
      }
      part.dataset.seen = await answer.text();
      document.querySelectorAll("input[name=seen]").forEach((field) => part.hasAttribute("data-selected") && (field.value = part.dataset.seen));
      if (select) window.location.assign(next ? `?part=${next}&side=${this.$el.dataset.side}` : part.getAttribute("href"));
    },
  }));

  // Four corners of a photo, dragged or nudged; the text field beside it says the same.
  Alpine.data("corners", () => ({
    init() {
      this.svg = this.$el.querySelector("svg");
      this.field = this.$el.querySelector("[name=pixels]");
      this.svg.addEventListener("pointerdown", (e) => this.grab(e));
      this.svg.addEventListener("pointermove", (e) => this.held !== undefined && this.move(this.held, this.point(e)));
      this.svg.addEventListener("pointerup", () => (this.held = undefined));
      this.svg.addEventListener("keydown", (e) => this.nudge(e));
      this.field.addEventListener("change", () => this.draw());
      this.draw();
    },
    points() {
      return this.field.value.trim().split(/\s+/).map((pair) => pair.split(",").map(Number));
    },
    point(event) {
      const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(this.svg.getScreenCTM().inverse());
      return [at.x, at.y];
    },
    grab(event) {
      const corner = event.target.closest("[data-corner]");
      if (!corner) return;
      event.preventDefault();
      corner.focus();
      this.held = Number(corner.dataset.corner);
      this.svg.setPointerCapture(event.pointerId);
    },
    move(which, at) {
      const points = this.points();
      points[which] = [Math.min(Math.max(at[0], 0), this.svg.viewBox.baseVal.width), Math.min(Math.max(at[1], 0), this.svg.viewBox.baseVal.height)];
      this.field.value = points.map((p) => p.map((n) => n.toFixed(0)).join(",")).join(" ");
      this.draw();
    },
    nudge(event) {
      const step = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
      const corner = event.target.closest("[data-corner]");
      if (!step || !corner) return;
      event.preventDefault();
      const by = event.shiftKey ? 20 : 2;
      const [x, y] = this.points()[Number(corner.dataset.corner)];
      this.move(Number(corner.dataset.corner), [x + step[0] * by, y + step[1] * by]);
    },
    draw() {
      const points = this.points();
      if (points.length !== 4 || points.flat().some((n) => !Number.isFinite(n))) return;
      this.svg.querySelector("polygon").setAttribute("points", points.map((p) => p.join(",")).join(" "));
      points.forEach(([x, y], i) => this.svg.querySelector(`[data-corner="${i}"]`).setAttribute("transform", `translate(${x} ${y})`));
    },
  }));

  // Two photos over one another, the upper one from a line on that a slider moves.
  Alpine.data("compared", () => ({
    init() {
      const field = this.$el.querySelector("input[type=range]"), over = this.$el.querySelector("[data-over]");
      const draw = () => {
        over.style.clipPath = `inset(0 0 0 ${field.value}%)`;
        field.setAttribute("aria-valuetext", `${field.value} % before, ${100 - field.value} % after`);
      };
      field.addEventListener("input", draw);
      draw();
    },
  }));

  // A place to drop photos: what is dropped goes into the file field, and the form is sent.
  Alpine.data("dropping", () => ({
    init() {
      const field = this.$el.querySelector("input[type=file]");
      this.$el.addEventListener("dragover", (e) => {
        e.preventDefault();
        this.$el.classList.add("over");
      });
      this.$el.addEventListener("dragleave", () => this.$el.classList.remove("over"));
      this.$el.addEventListener("drop", (e) => {
        e.preventDefault();
        field.files = e.dataTransfer.files;
        this.$el.requestSubmit();
      });
    },
  }));
});
