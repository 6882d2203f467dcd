// A scope on the wire, watched: a look every now and then, drawn as it comes; what is done meanwhile is marked by one touch.
import { plot, shown } from "./plot.js";

const EVERY = 350; // milliseconds from one look to the next
const AFTER_TROUBLE = 2500;
const SHOWN = 30; // seconds in view

document.addEventListener("alpine:init", () => {
  Alpine.data("watch", () => ({
    ...plot,
    own: null,
    other: null,
    from: 0,
    to: SHOWN,
    place: 0,
    marks: [],
    pair: null,
    timer: 0,
    gone: false,
    init() {
      this.canvas = this.$refs.plot;
      this.sized = new ResizeObserver(() => this.draw());
      this.sized.observe(this.canvas);
      this.look();
    },
    destroy() {
      this.gone = true;
      clearTimeout(this.timer);
      this.sized.disconnect();
    },
    async look() {
      let wait = EVERY;
      if (!document.hidden) {
        const answer = await fetch(`${this.$root.dataset.look}?columns=${Math.round(this.width())}`).catch(() => null);
        const found = answer?.ok ? await answer.json() : null;
        const says = found ? found.says : "Pondrel does not answer, or this is watched no longer: begin anew.";
        this.$refs.trouble.textContent = says;
        this.$refs.trouble.hidden = !says;
        if (says) wait = AFTER_TROUBLE;
        if (found?.channels.length) this.take(found);
      }
      if (!this.gone) this.timer = setTimeout(() => this.look(), wait);
    },
    take(found) {
      this.own = found;
      this.to = Math.max(found.seconds, 2);
      this.from = Math.max(this.to - SHOWN, 0);
      this.marks = found.marks;
      const volts = (value) => shown(value, "V", Math.max(Math.abs(value) / 200, 0.002));
      this.$refs.mean.textContent = volts(found.mean);
      this.$refs.now.textContent = volts(found.now);
      this.$refs.long.textContent = shown(found.seconds, "s", 1);
      this.$refs.plan.textContent = found.plan?.says ?? "";
      this.$refs.cleared.textContent = found.plan?.cleared.length ? `Cleared: ${found.plan.cleared.join(", ")}.` : "";
      for (const own of this.$root.querySelectorAll("[data-thing]")) own.classList.toggle("on", own.dataset.thing === found.plan?.next);
      this.list();
      this.draw();
    },
    list() {
      const list = this.$refs.marks;
      const key = JSON.stringify(this.marks);
      if (list.dataset.key === key) return;
      list.dataset.key = key;
      list.replaceChildren(...[...this.marks].reverse().map((mark) => {
        const line = document.createElement("li");
        const flag = document.createElement("span");
        flag.className = mark.hit ? "flag hit" : "flag";
        flag.textContent = mark.letter;
        const text = document.createElement("span");
        const what = document.createElement("b");
        what.textContent = mark.what;
        text.append(what, `, ${mark.at.toFixed(1)} s`, document.createElement("br"), mark.says);
        line.append(flag, text);
        return line;
      }));
    },
    // It is kept: there is nothing to look at here any more.
    leave() {
      this.gone = true;
      clearTimeout(this.timer);
    },
    // A mark is sent without leaving the page.
    async sent(event) {
      event.preventDefault();
      const form = event.target;
      const sends = new FormData(form);
      if (event.submitter?.name) sends.set(event.submitter.name, event.submitter.value);
      const answer = await fetch(form.action, { method: "POST", body: sends }).catch(() => null);
      if (!answer?.ok) {
        this.$refs.trouble.textContent = "The mark did not get through: touch it again.";
        this.$refs.trouble.hidden = false;
      }
      for (const field of form.querySelectorAll("input[name=other]")) field.value = "";
    },
  }));
});
