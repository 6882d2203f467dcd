// The Trace screen: one field for what the meter shows, one fetch for everything else that is touched.
import { middle, swap, typing } from "./fragment.js";
import { liveMeter } from "./live.js";

// What a meter on the wire is asked for, by the instrument that is wanted.
const WIRED = { volts: "V", lowz: "V", ac: "V~", ohms: "Ω", amps: "A" };
const FIELDS = ["instrument", "state", "red", "black", "unplugged"];
const VIEWS = ["ladder", "circuit", "why", "plan"];
const UPRIGHT = window.matchMedia("(max-width: 1000px)");

// Where the screen has a pad of its own the system's keyboard would cover the circuit; the pad's key "words" calls it.
const keepKeyboardAway = (field) => {
  if (field) field.inputMode = UPRIGHT.matches && field.form.querySelector(".pad") ? "none" : "text";
};

document.addEventListener("alpine:init", () => {
  Alpine.data("trace", () => ({
    busy: false,
    drawing: null,
    waits: false,
    turn: 0,
    waiting: 0,
    ticking: 0,
    root: null,
    refs: {},
    init() {
      // Kept, since a handler's own element may have been swapped out by the time it goes on.
      this.root = this.$root;
      // Only where nothing else has the keys yet: then a number can be typed at once, before the names below are known.
      const field = this.root.querySelector("[x-ref=value]");
      keepKeyboardAway(field);
      if (document.activeElement === document.body) field?.focus({ preventScroll: true });
      this.$nextTick(() => {
        this.refs = this.$refs;
        this.bringBack();
        this.settle();
        if (this.typed().trim()) this.look(); // somebody was quicker than this script
      });
      this.live = liveMeter(this.root, () => this.wired(), (typed) => this.takeLive(typed));
      this.keyHandler = (event) => this.pageKey(event);
      window.addEventListener("keydown", this.keyHandler);
    },
    // Where the probes stand goes along: the simulated vehicle puts its own there.
    wired() {
      const form = this.root.querySelector("form[data-reading]");
      const value = (name) => form?.elements[name]?.value ?? "";
      const unit = WIRED[value("instrument")];
      if (!unit || this.busy) return null;
      return new URLSearchParams({ unit, red: value("red"), black: value("black"), state: value("state"), off: value("unplugged") });
    },
    takeLive(typed) {
      this.write(typed, true);
      this.focusReading();
    },
    destroy() {
      this.live.stop();
      window.removeEventListener("keydown", this.keyHandler);
    },
    // A number that was typed and not entered is there again when one comes back to the page.
    bringBack() {
      const field = this.refs.value;
      if (field && !field.value) field.value = sessionStorage.getItem(`typed ${location.pathname}`) ?? "";
    },
    keepTyped() {
      const name = `typed ${location.pathname}`;
      if (this.typed()) sessionStorage.setItem(name, this.typed());
      else sessionStorage.removeItem(name);
    },
    // What only a script can do with what the server drew.
    settle() {
      this.keepTyped();
      this.keepLeadsInView();
      keepKeyboardAway(this.refs.value);
      this.prepare();
      this.tick();
    },
    form() {
      return this.refs.value?.form;
    },
    typed() {
      return this.refs.value?.value ?? "";
    },
    focusReading() {
      this.refs.value?.focus({ preventScroll: true });
    },
    // Both leads in the middle of a long ladder where they fit into it together, else the red one.
    keepLeadsInView() {
      this.keepLeadsOfDiagramInView();
      const list = this.refs.ladder;
      const leads = list ? [...list.querySelectorAll(".rung.red, .rung.black")] : [];
      if (!leads.length) return;
      const middleOf = (rungs) => {
        const edges = rungs.flatMap((rung) => [rung.offsetTop, rung.offsetTop + rung.offsetHeight]).map((at) => at - list.offsetTop);
        return { at: (Math.min(...edges) + Math.max(...edges)) / 2, height: Math.max(...edges) - Math.min(...edges) };
      };
      const both = middleOf(leads);
      const red = leads.find((rung) => rung.matches(".red")) ?? leads[0];
      const shown = both.height < list.clientHeight ? both : middleOf([red]);
      list.scrollTop = shown.at - list.clientHeight / 2;
    },
    // Of a circuit that is larger than its window the stretch under test: both leads where they fit in, else the red one.
    keepLeadsOfDiagramInView() {
      const pane = this.refs.circuit;
      if (!pane) return;
      const targets = [...pane.querySelectorAll(".place.red .target, .place.black .target")];
      const leads = targets.map((target) => target.getBoundingClientRect());
      if (!leads.length) return;
      const here = pane.getBoundingClientRect();
      for (const [from, to, size, scroll] of [["top", "bottom", "height", "scrollTop"], ["left", "right", "width", "scrollLeft"]]) {
        const [first, last] = [Math.min(...leads.map((box) => box[from])), Math.max(...leads.map((box) => box[to]))];
        const [one, end] = last - first < here[size] ? [first, last] : [leads[0][from], leads[0][to]];
        if (one < here[from] || end > here[to]) pane[scroll] += (one + end) / 2 - (here[from] + here[to]) / 2;
      }
    },
    // Swap the screen for what the server answers; what was typed stays if the server cannot be reached. Another view of the same moment
    // keeps what is in the field.
    async load(url, options, sameMoment = false) {
      if (this.busy && !this.drawing) return; // something is being written
      this.drawing?.abort(); // what is drawn anew gives way to what was touched last
      const drawing = options?.method === "POST" ? null : new AbortController();
      this.drawing = drawing;
      this.busy = true;
      const sent = this.typed();
      try {
        const { html, taken } = await middle(url, { ...options, signal: drawing?.signal });
        const typed = this.typed();
        const inField = document.activeElement === this.refs.value;
        const kept = swap(this.root, html);
        this.turn += 1; // an older preview no longer fits
        await this.$nextTick(); // until then the names are those of what was swapped out
        if (sameMoment) this.write(typed, false);
        else if (taken && typed !== sent) this.write(typed, false); // what was typed on while the answer was on its way is the next entry
        this.settle();
        // What was pressed is gone: the next thing is the next number.
        if (inField || !kept) this.focusReading();
      } catch (error) {
        if (error.name === "AbortError") return;
        const gone = "Pondrel does not answer: the reading is not written yet. Try again when it is back.";
        if (this.refs.error) this.refs.error.textContent = error instanceof TypeError ? gone : error.message;
      } finally {
        if (this.drawing === drawing) {
          this.busy = false;
          this.drawing = null;
          this.enterWaiting();
        }
      }
    },
    // Enter pressed while something was being written is made good.
    enterWaiting() {
      const waits = this.waits;
      this.waits = false;
      if (waits && this.typed().trim()) this.form().requestSubmit();
    },
    async submit(event) {
      if (event.target.matches("[data-leaves]")) return; // it leads to another page
      event.preventDefault();
      // Enter on an empty field takes what the meter shows; a second one enters it.
      if (event.target === this.form() && !event.submitter?.name && !this.typed().trim() && this.live.taken()) return;
      if (this.busy && !this.drawing) {
        this.waits = event.target === this.form() && !event.submitter?.name;
        return;
      }
      // Undoing, striking out and leaving out answer another question than what is in the field.
      const keeps = ["skip", "caution"].includes(event.submitter?.name) || event.target !== this.form();
      const action = event.submitter?.hasAttribute("formaction") ? event.submitter.formAction : event.target.action;
      await this.load(action, { method: "POST", body: new FormData(event.target, event.submitter) }, keeps);
    },
    // A touched link draws the same screen anew; a place that is touched while a line of evidence is being typed joins that line.
    follow(event) {
      const link = event.target.closest("a[data-draw]");
      if (!link || event.ctrlKey || event.metaKey || event.shiftKey) return;
      event.preventDefault();
      const line = this.typed().trim();
      if (link.dataset.place && /^[a-z]/i.test(line) && line !== "OL") this.write(`${line} ${link.dataset.place} `);
      else this.draw(link);
    },
    take(event) {
      const line = event.target.closest("[data-line]");
      if (line) this.write(`${line.dataset.line} `);
    },
    press(event) {
      const key = event.target.closest("[data-press]")?.dataset.press;
      if (!key) return;
      const typed = this.typed();
      if (key === "words") this.callKeyboard();
      else if (key === "back") this.write(typed.slice(0, -1));
      else if (key === "OL") this.write("OL");
      else if (key === "-") this.write(typed.startsWith("-") ? typed.slice(1) : `-${typed}`);
      else this.write(typed + key);
    },
    callKeyboard() {
      const field = this.refs.value;
      field.inputMode = "text";
      field.blur();
      field.focus();
    },
    write(text, focus = true) {
      const field = this.refs.value;
      if (!field) return;
      field.value = text;
      if (focus) field.focus({ preventScroll: true });
      this.look();
    },
    // Readings over time: from the first touch on, minutes go with every number, until the next touch.
    clock() {
      const name = `clock ${location.pathname}`;
      if (sessionStorage.getItem(name)) sessionStorage.removeItem(name);
      else sessionStorage.setItem(name, String(Date.now()));
      this.tick();
      this.focusReading();
    },
    tick() {
      clearTimeout(this.ticking);
      const { clock, minutes } = this.refs;
      if (!clock) return;
      const since = Number(sessionStorage.getItem(`clock ${location.pathname}`));
      const gone = since ? (Date.now() - since) / 60_000 : 0;
      const seconds = String(Math.floor((gone % 1) * 60)).padStart(2, "0");
      minutes.value = since ? String(Math.round(gone * 10) / 10) : "";
      clock.firstElementChild.textContent = since ? `Over time: ${Math.floor(gone)}:${seconds}, touch to stop` : "Take it over time";
      if (since) this.ticking = setTimeout(() => this.tick(), 1000);
    },
    // The person's own test: the server says what goes with it.
    choose(event) {
      if (FIELDS.includes(event.target.name) && event.target.form === this.form()) this.ask();
    },
    ask() {
      const fields = this.form().elements;
      const url = new URL(location.href);
      for (const name of ["take", "in", ...FIELDS]) url.searchParams.delete(name);
      for (const name of FIELDS) if (name !== "state" && fields[name].value.trim()) url.searchParams.set(name, fields[name].value);
      url.searchParams.set("in", fields.state.value);
      url.searchParams.set("state", fields.state.value);
      history.replaceState(null, "", url);
      this.load(url, undefined, true);
    },
    draw(link) {
      history.replaceState(null, "", link.href.baseVal ?? link.href);
      this.load(location.href, undefined, true);
    },
    // What the typed line would do, before it is entered: the server says.
    look() {
      this.keepTyped();
      clearTimeout(this.waiting);
      this.waiting = setTimeout(() => this.preview(), 180);
    },
    async preview() {
      const into = this.refs.preview;
      if (!into) return;
      const typed = this.typed();
      const turn = ++this.turn;
      if (typed.trim() === "") return into.replaceChildren();
      try {
        const answer = await fetch(this.previewOf(typed));
        const text = await answer.text();
        if (turn === this.turn && answer.ok) into.innerHTML = text;
      } catch {
        into.replaceChildren(); // the entry itself will say that the server is gone
      }
    },
    previewOf(value) {
      const form = this.form();
      const url = new URL(form.dataset.preview, location.href);
      for (const name of FIELDS) url.searchParams.set(name, form.elements[name].value);
      url.searchParams.set("value", value);
      return url;
    },
    // While the person looks, the server works out what each answer would mean: one touch then finds it ready.
    async prepare() {
      const turn = this.turn;
      for (const button of this.root.querySelectorAll("button[name=answer]")) {
        await new Promise((resolve) => setTimeout(resolve, 250));
        if (turn !== this.turn) return;
        // Read to its end: an answer left unread keeps one of the browser's few connections.
        await fetch(this.previewOf(button.value)).then((answer) => answer.text()).catch(() => null);
      }
    },
    // A touched part is unplugged for the person's own test, and plugged in again by the next touch.
    unplug(event) {
      const name = event.target.closest("[data-unplug]")?.dataset.unplug;
      const field = this.form()?.elements.unplugged;
      if (!name || !field || field.type === "hidden" || (event.type === "keydown" && !["Enter", " "].includes(event.key))) return;
      event.preventDefault();
      const names = field.value.split(",").map((text) => text.trim()).filter(Boolean);
      field.value = (names.includes(name) ? names.filter((other) => other !== name) : [...names, name]).join(", ");
      this.ask();
    },
    pageKey(event) {
      if (event.ctrlKey || event.metaKey || event.altKey) return;
      const inValue = event.target.name === "value";
      if (inValue && event.key === "Escape") return event.target.blur(); // out of the field letters are the page's keys
      if (typing(event.target) && !(inValue && event.target.value === "" && event.key === "?")) return;
      if (event.key === "r") this.focusReading();
      else if (/^[1-5]$/.test(event.key)) {
        const link = this.root.querySelector(`[data-take="${event.key}"]`);
        if (!link) return;
        this.draw(link);
      } else if (event.key === "s" || event.key === "p") this.step(`a.tab[data-draw="${event.key === "s" ? "state" : "load"}"]`);
      else if (event.key === "v") this.lookAtNext();
      else if (event.key === "z") {
        const undo = this.root.querySelector("[data-undo]");
        if (!undo) return;
        undo.form.requestSubmit();
      } else if (event.key === "u") {
        const line = this.root.querySelector(".log-line:has(input[name=reason])");
        if (!line) return;
        line.open = true;
        line.querySelector("input[name=reason]").focus();
      } else if (inValue) {
        document.getElementById("keys").showModal();
      } else return;
      event.preventDefault();
    },
    lookAtNext() {
      const url = new URL(location.href);
      const at = VIEWS.indexOf(url.searchParams.get("view") ?? VIEWS[0]);
      url.searchParams.set("view", VIEWS[(at + 1) % VIEWS.length]);
      history.replaceState(null, "", url);
      this.load(url, undefined, true);
    },
    // The next of some tabs after the one that is chosen; from the last back to the first.
    step(selector) {
      const links = [...this.root.querySelectorAll(selector)];
      const at = links.findIndex((link) => link.classList.contains("on"));
      if (links.length) this.draw(links[(at + 1) % links.length]);
    },
  }));
});
