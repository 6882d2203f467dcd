import { middle, swap } from "./fragment.js";

// A touch on an answer puts it into its field.
const offered = (root, event) => {
  const chip = event.target.closest("button[data-offer]");
  if (!chip) return false;
  const field = [...chip.closest("form").elements].find((own) => own.name === chip.dataset.for && own.matches("input"));
  if (field) {
    field.value = chip.dataset.offer;
    field.dispatchEvent(new Event("change", { bubbles: true }));
  }
  return true;
};

document.addEventListener("alpine:init", () => {
  // The questions of a typical circuit: an answer may change what else is asked.
  Alpine.data("typical", () => ({
    asked: 0,
    offer(event) {
      offered(this.$root, event);
    },
    async changed() {
      const turn = ++this.asked;
      const url = new URL(this.$root.dataset.address, location.href);
      for (const [name, value] of new FormData(this.$root)) {
        if (typeof value === "string" && value && name !== "csrf_token" && name !== "key") url.searchParams.set(name, value);
      }
      try {
        const { html } = await middle(url);
        if (turn === this.asked) this.show(html);
      } catch {
        // what was answered stands; the server asks again when it is drawn
      }
    },
    // Where the same is asked as before only what holds is told anew: whoever types on is not disturbed. Where more or less is asked, what
    // stands in the fields now goes along.
    show(html) {
      const fresh = new DOMParser().parseFromString(html, "text/html");
      const named = (root) => [...root.querySelectorAll("details.thing")].map((thing) => thing.getAttribute("name")).join();
      if (named(fresh) === named(this.$refs.things)) {
        for (const thing of fresh.querySelectorAll("details.thing")) {
          const own = this.$refs.things.querySelector(`details.thing[name="${CSS.escape(thing.getAttribute("name"))}"] .thing-says`);
          own?.replaceChildren(...thing.querySelector(".thing-says").childNodes);
        }
        return;
      }
      const typed = new Map([...this.$root.elements].filter((el) => el.matches("input:not([type])")).map((el) => [el.name, el.value]));
      swap(this.$refs.things, html);
      for (const el of this.$root.elements) if (el.matches("input:not([type])") && typed.has(el.name)) el.value = typed.get(el.name);
    },
  }));

  // A circuit that is being drawn: what is touched and what is done there is answered by the page's middle, drawn anew.
  Alpine.data("draft", () => ({
    busy: false,
    next: null, // what was touched meanwhile: the last touch counts
    async load(url, options) {
      if (this.busy) {
        this.next = [url, options];
        return;
      }
      this.busy = true;
      try {
        const answer = await fetch(url, { ...options, headers: { "X-Fragment": "1" } });
        const html = await answer.text();
        if (!answer.ok && !html.includes("draft-grid")) {
          location.assign(url); // something that is no page of this drawing: show it
          return;
        }
        swap(this.$root, html);
        if (answer.ok) history.replaceState(null, "", answer.url);
        await this.$nextTick();
        this.keepInView();
      } catch {
        location.reload(); // the drawing is kept step by step: nothing is lost
      } finally {
        this.busy = false;
        const [then, how] = this.next ?? [];
        this.next = null;
        if (then) this.load(then, how);
      }
    },
    keepInView() {
      const pane = this.$root.querySelector(".draft-scroll");
      const chosen = pane?.querySelector(".chosen");
      if (!chosen) return;
      const [here, own] = [pane.getBoundingClientRect(), chosen.getBoundingClientRect()];
      if (own.top < here.top || own.bottom > here.bottom) pane.scrollTop += (own.top + own.bottom - here.top - here.bottom) / 2;
      if (own.left < here.left || own.right > here.right) pane.scrollLeft += (own.left + own.right - here.left - here.right) / 2;
    },
    click(event) {
      if (offered(this.$root, event)) return;
      const link = event.target.closest("a[data-draw]");
      if (!link || event.ctrlKey || event.metaKey || event.shiftKey) return;
      event.preventDefault();
      this.load(link.getAttribute("href"));
    },
    submit(event) {
      const form = event.target.closest("form[data-step]");
      if (!form) return;
      event.preventDefault();
      const body = new FormData(form);
      if (event.submitter?.name) body.set(event.submitter.name, event.submitter.value);
      this.load(form.action, { method: "POST", body });
    },
  }));
});
