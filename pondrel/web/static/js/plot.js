// Drawing a capture on a canvas: lanes by unit, axes, traces, averages, marks and cursors. What is drawn is the component's own: `own` and
// `other` (stretches as the server sends them), `from` and `to` in seconds, `place` the chosen channel, `marks`, and `pair` of cursors.

export const GUTTER = 58; // pixels at the left for the volts
const FOOT = 26; // below for the seconds
const HEAD = 34; // above for the marks
const LANE_GAP = 14;

const nice = (span, count) => {
  const raw = span / Math.max(count, 1);
  const power = 10 ** Math.floor(Math.log10(raw || 1));
  const step = [1, 2, 5, 10].find((own) => own * power >= raw * 0.999) * power;
  return step || 1;
};
const PREFIXES = [[1e-9, "n"], [1e-6, "µ"], [1e-3, "m"], [1, ""], [1e3, "k"], [1e6, "M"]];
export const shown = (value, unit, step) => {
  const size = Math.max(Math.abs(value), Math.abs(step));
  const [scale, prefix] = unit && size ? [...PREFIXES].reverse().find(([own]) => size >= own * 0.9995) ?? PREFIXES[0] : [1, ""];
  const digits = Math.max(0, Math.min(6, -Math.floor(Math.log10(Math.abs(step) / scale) + 1e-9)));
  return `${(value / scale).toFixed(digits)} ${prefix}${unit}`.trim();
};

export const plot = {
  width() {
    return Math.max(this.canvas.clientWidth - GUTTER - 10, 50);
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
  // Which channels are drawn in ink: the chosen one.
  strong(number) {
    return number === this.place;
  },
  gap() {
    return LANE_GAP;
  },
  ends(lane) {
    const all = [this.own, this.other].filter(Boolean).flatMap((data) =>
      lane.channels.map((number) => data.channels[number]).filter(Boolean).flatMap((one) => [one.least, one.most ?? one.least]));
    let low = Infinity;
    let high = -Infinity;
    for (const list of all) for (const value of list) {
      if (value === null) continue;
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
    const tall = (high - HEAD - FOOT - this.gap() * (lanes.length - 1)) / lanes.length;
    lanes.forEach((lane, number) => {
      const top = HEAD + number * (tall + this.gap());
      const [low, above] = this.ends(lane);
      const y = (value) => top + tall - ((value - low) / (above - low)) * tall;
      this.grid(pen, lane, low, above, y, top, tall, wide, hue);
      pen.save();
      pen.beginPath();
      pen.rect(GUTTER, top - 1, this.width(), tall + 2);
      pen.clip();
      if (this.courses && lane.channels.includes(this.place)) this.expected(pen, y, hue);
      if (this.other) {
        for (const own of lane.channels) this.trace(pen, this.other, own, y, hue("suspect"), 1.6, [5, 4], this.shift);
      }
      for (const own of lane.channels.filter((one) => !this.strong(one))) this.trace(pen, this.own, own, y, hue("faint"), 1.2, [], 0);
      for (const own of lane.channels.filter((one) => this.strong(one))) {
        this.trace(pen, this.own, own, y, hue("ink"), 2, [], 0);
        this.average(pen, this.own.averages[own] ?? [], y, hue("copper"));
      }
      pen.restore();
      if (lane.title) {
        pen.fillStyle = hue("ink");
        pen.textAlign = "left";
        pen.textBaseline = "bottom";
        pen.fillText(lane.title, GUTTER, top - 3);
      }
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
    let down = false; // whether the pen is: where nothing is known it is lifted
    for (let k = 0; k < least.length; k++) {
      if (least[k] === null) {
        down = false;
        continue;
      }
      const at = this.x(data.from + shift + (k + (channel.most ? 0.5 : 0)) * data.every);
      // Down and up in turns, so that the line goes on from column to column.
      const [first, second] = k % 2 ? [least[k], most[k]] : [most[k], least[k]];
      if (down) pen.lineTo(at, y(first));
      else pen.moveTo(at, y(first));
      down = true;
      if (first !== second) pen.lineTo(at, y(second));
    }
    pen.stroke();
    pen.setLineDash([]);
  },
  // What the circuit should draw, as a broad grey line beneath; what a suspect would, dashed.
  expected(pen, y, hue) {
    const shown = (number) => this.$root.querySelector(`[data-course="${number}"]`)?.getAttribute("aria-pressed") === "true";
    this.courses.courses.forEach((course, number) => {
      if (!shown(number)) return;
      pen.strokeStyle = course.sound ? hue("rule") : hue("suspect");
      pen.lineWidth = course.sound ? 9 : 2;
      pen.setLineDash(course.sound ? [] : [6, 5]);
      pen.beginPath();
      course.values.forEach((value, k) => pen.lineTo(this.x(this.courses.from + k * this.courses.every), y(value)));
      pen.stroke();
    });
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
};
