// Alpine components: the running clock, and the board on which parts are dragged and nudged.
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

  Alpine.data("board", () => ({
    held: null,
    init() {
      this.$el.addEventListener("pointerdown", (e) => this.grab(e));
      this.$el.addEventListener("pointermove", (e) => this.drag(e));
      this.$el.addEventListener("pointerup", (e) => this.drop(e));
      this.$el.addEventListener("dragstart", (e) => e.preventDefault());
      this.$el.addEventListener("click", (e) => this.moved && e.preventDefault(), true);
      document.addEventListener("keydown", (e) => this.nudge(e));
    },
    point(event) {
      const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(this.$el.getScreenCTM().inverse());
      return { x: at.x, y: at.y };
    },
    grab(event) {
      const part = event.target.closest("[data-part]");
      this.moved = false;
      if (!part || event.button !== 0) return;
      const at = this.point(event);
      this.held = { part, dx: at.x - Number(part.dataset.x), dy: at.y - Number(part.dataset.y), from: [event.clientX, event.clientY] };
    },
    drag(event) {
      if (!this.held) return;
      const [x, y] = this.held.from;
      if (!this.moved && Math.hypot(event.clientX - x, event.clientY - y) < 4) return;
      if (!this.moved) this.$el.setPointerCapture(event.pointerId);
      this.moved = true;
      const at = this.point(event);
      this.put(this.held.part, at.x - this.held.dx, at.y - this.held.dy);
    },
    put(part, x, y) {
      part.dataset.x = x.toFixed(2);
      part.dataset.y = y.toFixed(2);
      part.setAttribute("transform", `translate(${part.dataset.x} ${part.dataset.y})`);
    },
    drop() {
      const held = this.held;
      this.held = null;
      if (held && this.moved) this.save(held.part, true);
    },
    nudge(event) {
      const step = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
      const part = this.$el.querySelector("[data-selected]");
      if (!step || !part || event.target.closest("input, textarea, select") || document.querySelector("dialog[open]")) return;
      event.preventDefault();
      const by = event.shiftKey ? 5 : 0.5;
      this.put(part, Number(part.dataset.x) + step[0] * by, Number(part.dataset.y) + step[1] * by);
      clearTimeout(this.timer);
      this.timer = setTimeout(() => this.save(part, false), 250);
    },
    save(part, select) {
      const done = htmx.ajax("POST", part.dataset.url, { values: { x: part.dataset.x, y: part.dataset.y }, swap: "none" });
      if (select) done.then(() => window.location.assign(part.getAttribute("href")));
    },
  }));
});
