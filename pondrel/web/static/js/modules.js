// A talk with modules: the page is drawn anew when something changed; an output is commanded while a finger or a key is on its button.
import { middle, swap, typing } from "./fragment.js";

const EVERY = 400; // milliseconds between two looks
const FINGER = 250; // between two words that the finger is still there

document.addEventListener("alpine:init", () => {
  Alpine.data("modules", () => ({
    version: "",
    timer: 0,
    finger: 0,
    button: null,
    gone: false,
    init() {
      this.version = this.$root.dataset.version;
      this.look();
    },
    destroy() {
      this.gone = true;
      clearTimeout(this.timer);
      this.up();
    },
    token() {
      return this.$root.querySelector("input[name=csrf_token]")?.value ?? "";
    },
    async look() {
      if (!document.hidden || this.button) {
        const found = await fetch(this.$root.dataset.state).then((answer) => (answer.ok ? answer.json() : null)).catch(() => null);
        if (found) await this.take(found);
      }
      if (!this.gone) this.timer = setTimeout(() => this.look(), this.button ? EVERY / 3 : EVERY);
    },
    async take(found) {
      const busy = this.$root.querySelector("[data-busy]");
      if (busy) {
        busy.hidden = !found.busy;
        busy.textContent = `${found.busy} …`;
      }
      if (found.held) this.show(found.held);
      // While a finger is on a button nothing is drawn anew: the button would be another one.
      if (this.button && !(found.held?.ended && this.finger)) return;
      if (String(found.version) !== this.version) {
        this.version = String(found.version);
        await this.draw();
        if (found.held) this.show(found.held);
      }
    },
    async draw() {
      if (this.writes()) {
        this.version = ""; // what is being typed is not drawn over: the next look tries again
        return;
      }
      const button = this.button;
      try {
        const { html } = await middle(window.location.href);
        if (this.button !== button) {
          this.version = ""; // a finger came down meanwhile: what is under it stays
          return;
        }
        swap(this.$root, html);
      } catch {
        // The next look tries again.
      }
    },
    writes() {
      const field = document.activeElement;
      return this.$root.contains(field) && typing(field) && Boolean(field.value) && field.type !== "checkbox";
    },
    section() {
      const told = () => this.$root.querySelector(".mod-output [data-held]:not([hidden])");
      return (this.button ?? told())?.closest(".mod-output");
    },
    show(held) {
      const own = this.section();
      if (!own) return;
      const says = own.querySelector("[data-held]");
      says.hidden = false;
      const now = held.commanded ? held.says || "It is commanded." : "One moment …";
      says.textContent = held.ended ? `${held.came} ${held.why}`.trim() : now;
      const trend = own.querySelector("[data-trend]");
      const seen = held.values.filter(([, value]) => value !== null);
      if (!trend || seen.length < 2) return;
      trend.removeAttribute("hidden"); // a picture has no property of that name
      const end = Math.max(seen.at(-1)[0], 1);
      const values = seen.map(([, value]) => value);
      const [low, high] = [Math.min(...values), Math.max(...values)];
      const span = Math.max(high - low, 1e-6);
      const points = seen.map(([at, value]) => `${((340 * at) / end).toFixed(1)} ${(82 - (72 * (value - low)) / span).toFixed(1)}`);
      trend.querySelector(".course").setAttribute("d", `M${points.join("L")}`);
      trend.querySelector("[data-high]").textContent = high.toPrecision(3);
      trend.querySelector("[data-low]").textContent = low.toPrecision(3);
      trend.querySelector("[data-end]").textContent = `${end.toFixed(1)} s`;
    },
    down(event) {
      const button = event.target.closest(".mod-hold");
      if (!button || this.button || event.button > 0) return;
      event.preventDefault();
      button.setPointerCapture?.(event.pointerId);
      button.focus();
      this.begin(button);
    },
    press(event) {
      const button = event.target.closest?.(".mod-hold");
      if (!button || (event.key !== " " && event.key !== "Enter")) return;
      event.preventDefault();
      if (!this.button && !event.repeat) this.begin(button);
    },
    release(event) {
      if (event.key === " " || event.key === "Enter") this.up();
    },
    still(event) {
      if (event.target.closest(".mod-hold")) event.preventDefault();
    },
    async begin(button) {
      this.button = button;
      button.classList.add("held");
      const { module, thing, command } = button.dataset;
      const answer = await this.send("hold", { module, thing, command });
      if (answer?.error) {
        const says = button.closest(".mod-output").querySelector("[data-held]");
        says.hidden = false;
        says.textContent = answer.error;
        this.up();
        return;
      }
      if (this.button !== button) {
        this.send("letGo", {}); // it was let go before it was commanded
        return;
      }
      this.finger = setInterval(() => this.stay(), FINGER);
    },
    async stay() {
      const answer = await this.send("keep", {});
      if (!answer?.held) this.up();
    },
    up() {
      if (!this.button) return;
      this.button.classList.remove("held");
      this.button = null;
      clearInterval(this.finger);
      this.finger = 0;
      this.send("letGo", {});
    },
    async send(where, fields) {
      const sends = new FormData();
      sends.set("csrf_token", this.token());
      for (const [name, value] of Object.entries(fields)) sends.set(name, value);
      const answer = await fetch(this.$root.dataset[where], { method: "POST", body: sends, keepalive: true }).catch(() => null);
      return answer?.headers.get("content-type")?.includes("json") ? answer.json() : null;
    },
  }));
});
