// A guided way of starting and charging: each answer goes to the server, and what comes back is put in its place.
import { middle, swap, typing } from "./fragment.js";
import { liveMeter } from "./live.js";

const UPRIGHT = window.matchMedia("(max-width: 1000px)");

document.addEventListener("alpine:init", () => {
  Alpine.data("power", () => ({
    busy: false,
    turn: 0,
    waiting: 0,
    root: null,
    init() {
      this.root = this.$root;
      this.settle();
      this.live = liveMeter(this.root, () => this.wired(), (typed) => this.take(typed));
      this.keyed = (event) => this.pageKey(event);
      window.addEventListener("keydown", this.keyed);
    },
    destroy() {
      this.live.stop();
      window.removeEventListener("keydown", this.keyed);
    },
    field() {
      return this.root.querySelector(".power-form input[name=value]");
    },
    settle() {
      const field = this.field();
      if (!field) return;
      field.inputMode = UPRIGHT.matches ? "none" : "text";
      if (document.activeElement === document.body) field.focus({ preventScroll: true });
    },
    // What the number would mean, while it is typed.
    async look() {
      const form = this.root.querySelector("form[data-answer]");
      const place = this.root.querySelector("[x-ref=preview]");
      if (!form || !place) return;
      const turn = ++this.turn;
      clearTimeout(this.waiting);
      this.waiting = setTimeout(async () => {
        const asked = new URLSearchParams([...new FormData(form)].filter(([name]) => ["step", "value", "warm"].includes(name)));
        const html = await middle(`${form.dataset.look}?${asked}`).then((answer) => answer.html, () => "");
        if (turn === this.turn && place.isConnected) place.innerHTML = html;
      }, 160);
    },
    // Where the leads go goes along: the simulated vehicle puts its own there.
    wired() {
      const form = this.root.querySelector("form[data-answer]");
      if (!form || this.busy || !this.field()) return null;
      const unit = this.root.querySelector(".reading-field .unit")?.textContent.trim();
      const more = [...form.querySelectorAll("[data-live-of]")].map((own) => [own.name, own.value]);
      return ["V", "V~", "A", "Ω"].includes(unit) ? new URLSearchParams([["unit", unit], ...more]) : null;
    },
    take(typed) {
      this.field().value = typed;
      this.field().focus({ preventScroll: true });
      this.look();
    },
    press(event) {
      const key = event.target.closest("[data-press]")?.dataset.press;
      const field = this.field();
      if (!key || !field) return;
      event.preventDefault();
      if (key === "back") field.value = field.value.slice(0, -1);
      else if (key === "words") field.inputMode = "text";
      else if (key === "-") field.value = field.value.startsWith("-") ? field.value.slice(1) : `-${field.value}`;
      else field.value += key === "OL" ? "" : key;
      field.focus({ preventScroll: true });
      this.look();
    },
    pageKey(event) {
      if (event.key === "Escape") this.field()?.blur();
      if (event.key === "r" && !typing(event.target) && !event.ctrlKey && !event.metaKey) {
        event.preventDefault();
        this.field()?.focus();
      }
    },
    // What is chosen of the vehicle is noted at once.
    chosen(event) {
      if (event.target.matches(".known-form select")) event.target.form.requestSubmit();
    },
    async submit(event) {
      const form = event.target;
      if (form.matches("[data-leaves]") || this.busy) return; // it leads to another page
      event.preventDefault();
      // Enter on an empty field takes what the meter on the wire shows.
      const skips = event.submitter?.name === "skip";
      if (form.matches("[data-answer]") && !skips && this.field() && !this.field().value.trim() && this.live.taken()) return;
      this.busy = true;
      try {
        const answer = await middle(form.action, { method: "POST", body: new FormData(form, event.submitter) });
        swap(this.root, answer.html);
        document.activeElement?.blur?.();
        this.settle();
        if (UPRIGHT.matches) window.scrollTo({ top: 0 });
        else this.root.querySelector(".power-steps .now")?.scrollIntoView({ block: "nearest" });
      } catch (error) {
        const says = this.root.querySelector("#reading-error");
        if (says) says.textContent = error.message;
      } finally {
        this.busy = false;
      }
    },
  }));
});
