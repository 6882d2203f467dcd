// The scope's capture on a canvas: the server sends what a column of pixels needs, the canvas draws it; zoomed and moved by touch, wheel
// and keys; two cursors; another capture laid over it.
import { typing } from "./fragment.js";
import { GUTTER, plot, shown } from "./plot.js";

const CLOSER = 1.6;
const LEAST_SAMPLES = 8;
const NEAR = 22; // pixels within which a finger takes a cursor
const STILL = 6; // pixels by which a touch may move and be a touch
const WAIT = 60; // milliseconds until the server is asked after the last move
const KEPT = "scope.chips";

document.addEventListener("alpine:init", () => {
  Alpine.data("scope", () => ({
    ...plot,
    own: null,
    other: null,
    courses: null,
    from: 0,
    to: 0,
    start: 0,
    seconds: 0,
    every: 0,
    shift: 0,
    pair: null, // two cursors in seconds
    fingers: new Map(),
    held: null,
    waiting: 0,
    turn: 0,
    init() {
      this.canvas = this.$refs.plot;
      this.place = Number(this.$root.dataset.place);
      this.shift = Number(this.$root.dataset.shift ?? 0);
      this.marks = this.$root.dataset.marks.trim().split(/\s+/).filter(Boolean).map((text) => {
        const [at, letter, hit] = text.split(":");
        return { at: Number(at), letter, hit: hit === "1" };
      });
      this.restore();
      const canvas = this.canvas;
      canvas.addEventListener("pointerdown", (event) => this.down(event));
      canvas.addEventListener("pointermove", (event) => this.move(event));
      for (const name of ["pointerup", "pointercancel"]) canvas.addEventListener(name, (event) => this.up(event));
      canvas.addEventListener("wheel", (event) => this.wheel(event), { passive: false });
      canvas.addEventListener("dblclick", () => this.whole());
      this.keyed = (event) => this.pageKey(event);
      window.addEventListener("keydown", this.keyed);
      this.sized = new ResizeObserver(() => this.ask());
      this.sized.observe(canvas);
      this.lit = new MutationObserver(() => this.draw());
      this.lit.observe(document.documentElement, { attributes: true, attributeFilter: ["data-light"] });
      if (this.$root.dataset.pending) this.circuit();
    },
    // What the circuit would draw takes seconds the first time: it comes behind the page.
    async circuit() {
      const answer = await fetch(this.$root.dataset.pending).catch(() => null);
      const page = answer?.ok ? new DOMParser().parseFromString(await answer.text(), "text/html") : null;
      const root = page?.querySelector("[x-data=scope]");
      if (!root) {
        this.$refs.pending.textContent = "It could not be worked out: load the page again.";
        return;
      }
      for (const id of ["scope-courses", "scope-circuit", "scope-legend"]) {
        document.getElementById(id).replaceWith(page.getElementById(id));
      }
      if (!root.dataset.courses) return;
      this.$root.dataset.courses = root.dataset.courses;
      if (this.seconds) this.fetch();
    },
    destroy() {
      window.removeEventListener("keydown", this.keyed);
      this.sized.disconnect();
      this.lit.disconnect();
    },
    // Chips: which ones a person wants is remembered in this browser.
    restore() {
      let kept = null;
      try {
        kept = JSON.parse(localStorage.getItem(KEPT));
      } catch {
        kept = null;
      }
      if (!kept) return;
      for (const chip of this.$root.querySelectorAll("[data-chip]")) {
        if (chip.dataset.chip in kept) this.set(chip, kept[chip.dataset.chip]);
      }
    },
    set(chip, on) {
      chip.hidden = !on;
      const button = this.$root.querySelector(`[data-adds="${chip.dataset.chip}"]`);
      if (button) button.textContent = on ? "−" : "+";
    },
    chip(event) {
      const name = event.currentTarget.dataset.adds;
      const chip = this.$root.querySelector(`[data-chip="${name}"]`);
      this.set(chip, chip.hidden);
      let kept = {};
      try {
        kept = JSON.parse(localStorage.getItem(KEPT)) ?? {};
      } catch {
        kept = {};
      }
      try {
        localStorage.setItem(KEPT, JSON.stringify({ ...kept, [name]: !chip.hidden }));
      } catch {
        // A browser that keeps nothing shows the usual chips the next time.
      }
    },
    // What is in view is asked of the server after the last move.
    ask(soon = true) {
      this.draw();
      clearTimeout(this.waiting);
      this.waiting = setTimeout(() => this.fetch(), soon ? 0 : WAIT);
    },
    async fetch() {
      const turn = ++this.turn;
      const whole = this.seconds === 0;
      const columns = Math.round(this.width());
      const asked = (from, to) => new URLSearchParams(whole ? { columns } : { from, to, columns });
      try {
        const [own, other] = await Promise.all([
          this.data(this.$root.dataset.view, asked(this.from, this.to)),
          this.$root.dataset.other && !whole
            ? this.data(this.$root.dataset.other, asked(this.from - this.shift, this.to - this.shift))
            : null,
        ]);
        if (turn !== this.turn) return;
        this.own = own;
        if (!whole && this.$root.dataset.courses) this.computed(turn, asked(this.from, this.to));
        this.other = other;
        if (whole) {
          Object.assign(this, { start: own.start, seconds: own.seconds, from: own.start, to: own.start + own.seconds });
          if (this.$root.dataset.other || this.$root.dataset.courses) this.fetch();
        }
        this.$refs.trouble.hidden = true;
        this.draw();
      } catch (error) {
        this.$refs.trouble.textContent = error.message;
        this.$refs.trouble.hidden = false;
      }
    },
    // What the circuit would draw there: asked after the capture itself is in view, since it may take a while to follow.
    async computed(turn, asked) {
      const found = await this.data(this.$root.dataset.courses, asked).catch(() => null);
      if (!found || turn !== this.turn) return;
      this.courses = found;
      this.draw();
    },
    course(event) {
      const button = event.currentTarget;
      const on = button.getAttribute("aria-pressed") !== "true";
      button.setAttribute("aria-pressed", on ? "true" : "false");
      button.classList.toggle("on", on);
      this.draw();
    },
    async data(address, asked) {
      const answer = await fetch(`${address}?${asked}`).catch(() => null);
      if (!answer?.ok) throw new Error("The capture cannot be read just now: load the page again.");
      return answer.json();
    },
    // Closer and farther about a time.
    zoom(factor, about = (this.from + this.to) / 2) {
      const least = this.own ? (this.seconds / 2 ** 40) : 0;
      const own = this.own && !this.own.channels[this.place].most ? this.own.every : 0;
      const span = Math.min(Math.max((this.to - this.from) / factor, LEAST_SAMPLES * own, least), this.seconds);
      const share = (about - this.from) / (this.to - this.from);
      this.see(about - share * span, span);
    },
    see(from, span) {
      const first = Math.min(Math.max(from, this.start), this.start + this.seconds - span);
      Object.assign(this, { from: first, to: first + span });
      this.ask(false);
    },
    closer() {
      this.zoom(CLOSER);
    },
    farther() {
      this.zoom(1 / CLOSER);
    },
    whole() {
      this.see(this.start, this.seconds);
    },
    otherBack() {
      this.lay(-1);
    },
    otherOn() {
      this.lay(1);
    },
    lay(way) {
      this.shift += (way * (this.to - this.from)) / 100;
      this.ask(false);
    },
    cursors() {
      const span = this.to - this.from;
      this.pair = this.pair ? null : [this.from + span / 3, this.from + (2 * span) / 3];
      this.$refs.cursorsButton.setAttribute("aria-pressed", this.pair ? "true" : "false");
      this.draw();
      this.readOut();
    },
    async readOut() {
      const place = this.$refs.read;
      if (!this.pair) {
        place.textContent = "";
        return;
      }
      const [from, to] = [...this.pair].sort((a, b) => a - b);
      const found = await this.data(this.$root.dataset.between, new URLSearchParams({ from, to })).catch(() => null);
      if (!this.pair || !found) return;
      const own = found.channels[this.place];
      const span = to - from;
      const unit = own.unit;
      const say = (value) => shown(value, unit, Math.max(Math.abs(value) / 1000, 1e-4));
      const often = shown(1 / span, "Hz", 1 / span / 1000);
      place.textContent = `1 to 2: ${shown(span, "s", span / 1000)}, ${often} · average ${say(own.mean)} · `
        + `1: ${say(own.first)} · 2: ${say(own.last)} · change ${say(own.last - own.first)}`;
    },
    down(event) {
      this.canvas.setPointerCapture(event.pointerId);
      this.fingers.set(event.pointerId, event.offsetX);
      this.moved = 0;
      if (this.fingers.size === 1) {
        const near = this.pair?.findIndex((time) => Math.abs(this.x(time) - event.offsetX) < NEAR) ?? -1;
        this.held = near >= 0 ? { cursor: near } : { from: this.from, x: event.offsetX };
      } else if (this.fingers.size === 2) {
        const [a, b] = [...this.fingers.values()];
        this.held = { pinch: Math.abs(a - b) || 1, from: this.from, to: this.to, about: this.time((a + b) / 2) };
      }
    },
    move(event) {
      if (!this.fingers.has(event.pointerId) || !this.held) return;
      this.moved = Math.max(this.moved, Math.abs(event.offsetX - (this.held.x ?? event.offsetX)));
      this.fingers.set(event.pointerId, event.offsetX);
      if (this.held.cursor !== undefined) {
        this.pair[this.held.cursor] = Math.min(Math.max(this.time(event.offsetX), this.from), this.to);
        this.moved = STILL + 1;
        this.draw();
      } else if (this.held.pinch) {
        const [a, b] = [...this.fingers.values()];
        const { pinch, from, to, about } = this.held;
        Object.assign(this, { from, to });
        this.moved = STILL + 1;
        this.zoom(Math.abs(a - b) / pinch, about);
      } else if (this.moved > STILL) {
        const span = this.to - this.from;
        this.see(this.held.from - ((event.offsetX - this.held.x) / this.width()) * span, span);
      }
    },
    up(event) {
      if (!this.fingers.delete(event.pointerId)) return;
      if (this.held?.cursor !== undefined) this.readOut();
      // A touch that did not move names a time.
      else if (event.type === "pointerup" && this.moved <= STILL && event.offsetX >= GUTTER) this.touched(this.time(event.offsetX));
      this.held = null;
    },
    touched(time) {
      const field = this.$refs.at;
      const digits = Math.max(0, Math.min(9, 3 - Math.floor(Math.log10(this.to - this.from))));
      field.value = time.toFixed(digits);
    },
    wheel(event) {
      event.preventDefault();
      if (Math.abs(event.deltaX) > Math.abs(event.deltaY)) {
        const span = this.to - this.from;
        this.see(this.from + (event.deltaX / this.width()) * span, span);
      } else this.zoom(Math.exp(-event.deltaY / 400), this.time(event.offsetX));
    },
    pageKey(event) {
      if (typing(event.target) || event.ctrlKey || event.metaKey || event.altKey || !this.own) return;
      const span = this.to - this.from;
      const does = {
        "+": () => this.closer(),
        "=": () => this.closer(),
        "-": () => this.farther(),
        "0": () => this.whole(),
        c: () => this.cursors(),
        ArrowLeft: () => this.see(this.from - span / 5, span),
        ArrowRight: () => this.see(this.from + span / 5, span),
      }[event.key];
      if (!does) return;
      event.preventDefault();
      does();
    },
  }));
});
