// Signals of a bus on a canvas, each in a lane of its own, as they held from message to message: zoomed and moved by touch, wheel and keys.
import { typing } from "./fragment.js";
import { GUTTER, plot } from "./plot.js";

const CLOSER = 1.6;
const WAIT = 60; // milliseconds until the server is asked after the last move
const STILL = 6; // pixels by which a touch may move and be a touch

document.addEventListener("alpine:init", () => {
  Alpine.data("signals", () => ({
    ...plot,
    own: null,
    other: null,
    courses: null,
    pair: null,
    place: -1,
    from: 0,
    to: 0,
    seconds: 0,
    held: null,
    waiting: 0,
    turn: 0,
    init() {
      this.canvas = this.$refs.plot;
      this.marks = this.$root.dataset.marks.trim().split(/\s+/).filter(Boolean).map((text) => {
        const [at, letter, hit] = text.split(":");
        return { at: Number(at), letter, hit: hit === "1" };
      });
      const canvas = this.canvas;
      canvas.addEventListener("pointerdown", (event) => this.down(event));
      canvas.addEventListener("pointermove", (event) => this.move(event));
      for (const name of ["pointerup", "pointercancel"]) canvas.addEventListener(name, (event) => this.up(event));
      canvas.addEventListener("wheel", (event) => this.wheel(event), { passive: false });
      this.keyed = (event) => this.pageKey(event);
      window.addEventListener("keydown", this.keyed);
      this.sized = new ResizeObserver(() => this.ask(0));
      this.sized.observe(canvas);
      this.lit = new MutationObserver(() => this.draw());
      this.lit.observe(document.documentElement, { attributes: true, attributeFilter: ["data-light"] });
    },
    destroy() {
      window.removeEventListener("keydown", this.keyed);
      this.sized.disconnect();
      this.lit.disconnect();
    },
    lanes() {
      return this.own.channels.map((channel, number) => ({ unit: channel.unit, channels: [number], title: channel.name }));
    },
    strong() {
      return true;
    },
    gap() {
      return 26;
    },
    ask(wait = WAIT) {
      this.draw();
      clearTimeout(this.waiting);
      this.waiting = setTimeout(() => this.fetch(), wait);
    },
    async fetch() {
      const turn = ++this.turn;
      const asked = new URLSearchParams(this.seconds ? { from: this.from, to: this.to } : {});
      asked.set("columns", Math.round(this.width()));
      const joint = this.$root.dataset.view.includes("?") ? "&" : "?";
      const answer = await fetch(`${this.$root.dataset.view}${joint}${asked}`).catch(() => null);
      if (turn !== this.turn) return;
      this.$refs.trouble.hidden = Boolean(answer?.ok);
      if (!answer?.ok) return;
      this.own = await answer.json();
      if (!this.seconds) Object.assign(this, { seconds: this.own.seconds, from: 0, to: this.own.seconds });
      this.draw();
    },
    zoom(factor, about = (this.from + this.to) / 2) {
      const span = Math.min(Math.max((this.to - this.from) / factor, 1e-4), this.seconds);
      this.see(about - ((about - this.from) / (this.to - this.from)) * span, span);
    },
    see(from, span) {
      const first = Math.min(Math.max(from, 0), this.seconds - span);
      Object.assign(this, { from: first, to: first + span });
      this.ask();
    },
    closer() {
      this.zoom(CLOSER);
    },
    farther() {
      this.zoom(1 / CLOSER);
    },
    whole() {
      this.see(0, this.seconds);
    },
    down(event) {
      this.canvas.setPointerCapture(event.pointerId);
      this.held = { from: this.from, x: event.offsetX, moved: 0 };
    },
    move(event) {
      if (!this.held) return;
      this.held.moved = Math.max(this.held.moved, Math.abs(event.offsetX - this.held.x));
      const span = this.to - this.from;
      if (this.held.moved > STILL) this.see(this.held.from - ((event.offsetX - this.held.x) / this.width()) * span, span);
    },
    up(event) {
      // A touch that did not move names a time for a mark.
      if (this.held && this.held.moved <= STILL && event.offsetX >= GUTTER) {
        const field = document.getElementById("mark-at");
        if (field) field.value = this.time(event.offsetX).toFixed(2);
      }
      this.held = null;
    },
    wheel(event) {
      event.preventDefault();
      this.zoom(Math.exp(-event.deltaY / 400), this.time(event.offsetX));
    },
    pageKey(event) {
      if (typing(event.target) || event.ctrlKey || event.metaKey || event.altKey || !this.own) return;
      const does = { "+": "closer", "=": "closer", "-": "farther", 0: "whole" }[event.key];
      if (!does) return;
      event.preventDefault();
      this[does]();
    },
  }));
});
