// The scope's capture on a canvas: the server sends what a column of pixels needs, the canvas draws it; zoomed and moved by touch, wheel
// and keys; two cursors; another capture laid over it.
import { typing } from "./fragment.js";

const GUTTER = 58; // pixels at the left for the volts
const FOOT = 26; // below for the seconds
const HEAD = 34; // above for the marks
const LANE_GAP = 14;
const CLOSER = 1.6;
const LEAST_SAMPLES = 8;
const NEAR = 22; // pixels within which a finger takes a cursor
const STILL = 6; // pixels by which a touch may move and be a touch
const WAIT = 60; // milliseconds until the server is asked after the last move
const KEPT = "scope.chips";

const nice = (span, count) => {
  const raw = span / Math.max(count, 1);
  const power = 10 ** Math.floor(Math.log10(raw || 1));
  const step = [1, 2, 5, 10].find((own) => own * power >= raw * 0.999) * power;
  return step || 1;
};
const PREFIXES = [[1e-9, "n"], [1e-6, "µ"], [1e-3, "m"], [1, ""], [1e3, "k"], [1e6, "M"]];
const shown = (value, unit, step) => {
  const size = Math.max(Math.abs(value), Math.abs(step));
  const [scale, prefix] = unit && size ? [...PREFIXES].reverse().find(([own]) => size >= own * 0.9995) ?? PREFIXES[0] : [1, ""];
  const digits = Math.max(0, Math.min(6, -Math.floor(Math.log10(Math.abs(step) / scale) + 1e-9)));
  return `${(value / scale).toFixed(digits)} ${prefix}${unit}`.trim();
};

document.addEventListener("alpine:init", () => {
  Alpine.data("scope", () => ({
    own: null,
    other: null,
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
    width() {
      return Math.max(this.canvas.clientWidth - GUTTER - 10, 50);
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
        this.other = other;
        if (whole) {
          Object.assign(this, { start: own.start, seconds: own.seconds, from: own.start, to: own.start + own.seconds });
          if (this.$root.dataset.other) this.fetch();
        }
        this.$refs.trouble.hidden = true;
        this.draw();
      } catch (error) {
        this.$refs.trouble.textContent = error.message;
        this.$refs.trouble.hidden = false;
      }
    },
    async data(address, asked) {
      const answer = await fetch(`${address}?${asked}`).catch(() => null);
      if (!answer?.ok) throw new Error("The capture cannot be read just now: load the page again.");
      return answer.json();
    },
    // Channels with the same unit share a lane.
    lanes() {
      const lanes = [];
      this.own.channels.forEach((channel, number) => {
        const lane = lanes.find((one) => one.unit === channel.unit && channel.unit);
        if (lane) lane.channels.push(number);
        else lanes.push({ unit: channel.unit, channels: [number] });
      });
      return lanes;
    },
    ends(lane) {
      const all = [this.own, this.other].filter(Boolean).flatMap((data) =>
        lane.channels.map((number) => data.channels[number]).filter(Boolean).flatMap((one) => [one.least, one.most ?? one.least]));
      let low = Infinity;
      let high = -Infinity;
      for (const list of all) for (const value of list) {
        if (value < low) low = value;
        if (value > high) high = value;
      }
      if (!(high > low)) {
        low -= 0.5;
        high = low + 1;
      }
      const room = (high - low) * 0.06;
      return [low - room, high + room];
    },
    x(time) {
      return GUTTER + ((time - this.from) / (this.to - this.from)) * this.width();
    },
    time(x) {
      return this.from + ((x - GUTTER) / this.width()) * (this.to - this.from);
    },
    draw() {
      const canvas = this.canvas;
      const ratio = window.devicePixelRatio || 1;
      const [wide, high] = [canvas.clientWidth, canvas.clientHeight];
      if (!wide || !high) return;
      if (canvas.width !== Math.round(wide * ratio) || canvas.height !== Math.round(high * ratio)) {
        canvas.width = Math.round(wide * ratio);
        canvas.height = Math.round(high * ratio);
      }
      const pen = canvas.getContext("2d");
      pen.setTransform(ratio, 0, 0, ratio, 0, 0);
      pen.clearRect(0, 0, wide, high);
      if (!this.own || this.to <= this.from) return;
      const style = getComputedStyle(canvas);
      const hue = (name) => style.getPropertyValue(`--color-${name}`).trim();
      pen.font = `13px ${style.getPropertyValue("--font-mono")}`;
      const lanes = this.lanes();
      const tall = (high - HEAD - FOOT - LANE_GAP * (lanes.length - 1)) / lanes.length;
      lanes.forEach((lane, number) => {
        const top = HEAD + number * (tall + LANE_GAP);
        const [low, above] = this.ends(lane);
        const y = (value) => top + tall - ((value - low) / (above - low)) * tall;
        this.grid(pen, lane, low, above, y, top, tall, wide, hue);
        pen.save();
        pen.beginPath();
        pen.rect(GUTTER, top - 1, this.width(), tall + 2);
        pen.clip();
        if (this.other) {
          for (const own of lane.channels) this.trace(pen, this.other, own, y, hue("suspect"), 1.6, [5, 4], this.shift);
        }
        for (const own of lane.channels.filter((one) => one !== this.place)) this.trace(pen, this.own, own, y, hue("faint"), 1.2, [], 0);
        if (lane.channels.includes(this.place)) {
          this.trace(pen, this.own, this.place, y, hue("ink"), 2, [], 0);
          this.average(pen, this.own.averages[this.place] ?? [], y, hue("copper"));
        }
        pen.restore();
      });
      this.seconds_axis(pen, high, hue);
      for (const mark of this.marks) this.mark(pen, mark, high, hue);
      if (this.pair) this.pair.forEach((time, number) => this.cursor(pen, time, number, high, hue));
    },
    grid(pen, lane, low, above, y, top, tall, wide, hue) {
      const step = nice(above - low, tall / 52);
      pen.textAlign = "right";
      pen.textBaseline = "middle";
      for (let value = Math.ceil(low / step) * step; value <= above; value += step) {
        pen.strokeStyle = hue("rule");
        pen.lineWidth = 1;
        pen.beginPath();
        pen.moveTo(GUTTER, y(value));
        pen.lineTo(GUTTER + this.width(), y(value));
        pen.stroke();
        pen.fillStyle = hue("faint");
        const last = value + step > above;
        const plain = Math.abs(value) < step / 1e6 ? 0 : value;
        if (y(value) > top + 4 || !last) pen.fillText(shown(plain, last ? lane.unit : "", step), GUTTER - 6, y(value));
      }
    },
    seconds_axis(pen, high, hue) {
      const step = nice(this.to - this.from, this.width() / 110);
      pen.textBaseline = "top";
      pen.fillStyle = hue("faint");
      const last = Math.floor(this.to / step) * step;
      for (let value = Math.ceil(this.from / step - 1e-9) * step; value <= this.to + step * 1e-6; value += step) {
        const at = this.x(value);
        pen.textAlign = at > GUTTER + this.width() - 30 ? "right" : "center";
        const unit = Math.abs(value - last) < step / 2 ? "s" : "";
        // All numbers of the axis in one unit: the last one names it.
        const far = Math.max(Math.abs(this.from), Math.abs(this.to));
        const [scale, prefix] = [...PREFIXES].reverse().find(([own]) => far >= own) ?? PREFIXES[3];
        const digits = Math.max(0, Math.min(9, -Math.floor(Math.log10(step / scale) + 1e-9)));
        const text = `${(value / scale).toFixed(digits)}${unit ? ` ${prefix}s` : ""}`;
        pen.fillText(text, Math.min(at, GUTTER + this.width()), high - FOOT + 7);
      }
    },
    trace(pen, data, number, y, colour, thick, dash, shift) {
      const channel = data.channels[number];
      if (!channel) return;
      const least = channel.least;
      const most = channel.most ?? least;
      pen.strokeStyle = colour;
      pen.lineWidth = thick;
      pen.setLineDash(dash);
      pen.lineJoin = "round";
      pen.beginPath();
      for (let k = 0; k < least.length; k++) {
        const at = this.x(data.from + shift + (k + (channel.most ? 0.5 : 0)) * data.every);
        // Down and up in turns, so that the line goes on from column to column.
        const [first, second] = k % 2 ? [least[k], most[k]] : [most[k], least[k]];
        if (k) pen.lineTo(at, y(first));
        else pen.moveTo(at, y(first));
        if (first !== second) pen.lineTo(at, y(second));
      }
      pen.stroke();
      pen.setLineDash([]);
    },
    // The average of each pulse: where pulses tick, that is what tells.
    average(pen, points, y, colour) {
      if (points.length < 2) return;
      pen.strokeStyle = colour;
      pen.lineWidth = 4;
      pen.beginPath();
      points.forEach(([time, level], number) => {
        if (number) pen.lineTo(this.x(time), y(level));
        else pen.moveTo(this.x(time), y(level));
      });
      pen.stroke();
    },
    mark(pen, { at, letter, hit }, high, hue) {
      const x = this.x(at);
      if (x < GUTTER || x > GUTTER + this.width()) return;
      pen.strokeStyle = pen.fillStyle = hit ? hue("copper") : hue("ink");
      pen.lineWidth = 2;
      pen.setLineDash([2, 4]);
      pen.beginPath();
      pen.moveTo(x, 26);
      pen.lineTo(x, high - FOOT);
      pen.stroke();
      pen.setLineDash([]);
      pen.beginPath();
      pen.roundRect(x - 12, 1, 24, 24, [3, 3, 12, 12]);
      pen.fill();
      pen.fillStyle = hit ? hue("on-copper") : hue("card");
      pen.textAlign = "center";
      pen.textBaseline = "middle";
      pen.fillText(letter, x, 13);
    },
    cursor(pen, time, number, high, hue) {
      const x = this.x(time);
      if (x < GUTTER - 1 || x > GUTTER + this.width() + 1) return;
      pen.strokeStyle = hue("ink");
      pen.lineWidth = 1.5;
      pen.beginPath();
      pen.moveTo(x, HEAD - 4);
      pen.lineTo(x, high - FOOT);
      pen.stroke();
      pen.fillStyle = hue("card");
      pen.beginPath();
      pen.arc(x, HEAD + 6, 10, 0, 7);
      pen.fill();
      pen.stroke();
      pen.fillStyle = hue("ink");
      pen.textAlign = "center";
      pen.textBaseline = "middle";
      pen.fillText(String(number + 1), x, HEAD + 6);
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
