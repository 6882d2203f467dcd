// Behaviour only: every rule and every number comes from the server. Works without it, too, by plain links and forms.
const typing = (target) => target.closest("input, textarea, select, dialog[open]") !== null;

document.addEventListener("alpine:init", () => {
  Alpine.data("shell", () => ({
    key(event) {
      if (event.ctrlKey || event.metaKey || event.altKey || typing(event.target)) return;
      if (event.key === "?") this.help();
      else if (event.key === "d") this.light();
      else if (event.key === "/" && document.querySelector("[data-focus='/']")) document.querySelector("[data-focus='/']").focus();
      else {
        const link = document.querySelector(`a[data-key="${CSS.escape(event.key)}"]`);
        if (!link) return;
        link.click();
      }
      event.preventDefault();
    },
    help() {
      document.getElementById("keys").showModal();
    },
    light() {
      const root = document.documentElement;
      root.dataset.light = root.dataset.light === "night" ? "day" : "night";
      localStorage.setItem("light", root.dataset.light);
    },
  }));

  Alpine.data("trace", () => ({
    busy: false,
    drawing: null,
    waits: false,
    nextLead: "red",
    turn: 0,
    waiting: 0,
    init() {
      this.focusReading();
      this.showRoot();
      this.prepare();
      this.keyHandler = (event) => this.pageKey(event);
      window.addEventListener("keydown", this.keyHandler);
    },
    destroy() {
      window.removeEventListener("keydown", this.keyHandler);
    },
    form() {
      return this.$root.querySelector("form[data-reading]");
    },
    focusReading() {
      const form = this.form();
      if (form) form.elements.value.focus({ preventScroll: true });
    },
    // A tall plan is scrolled to where it begins: at half its height.
    showRoot() {
      const tree = this.$root.querySelector(".tree-scroll");
      if (tree) tree.scrollTop = (tree.scrollHeight - tree.clientHeight) / 2;
    },
    // Swap the screen for what the server answers; what was typed stays if the server cannot be reached. Another view of the same moment
    // keeps what is in the field, and leaves the keys where they were.
    async fetchInto(url, options, sameMoment = false) {
      if (this.busy && !this.drawing) return; // something is being written
      this.drawing?.abort(); // what is drawn anew gives way to what was touched last
      const drawing = options?.method === "POST" ? null : new AbortController();
      this.drawing = drawing;
      this.busy = true;
      const sent = this.form()?.elements.value.value ?? "";
      try {
        const answer = await fetch(url, { ...options, signal: drawing?.signal, headers: { "X-Fragment": "1" } });
        const html = await answer.text();
        if (!answer.ok && answer.status !== 422) throw new Error(this.sentence(html));
        const typed = this.form()?.elements.value.value ?? "";
        const held = sameMoment ? this.held() : null; // as it is now, not as it was when this was asked for
        this.$root.innerHTML = html;
        this.turn += 1; // an older preview no longer fits
        if (held) this.takeUp(held);
        else {
          this.nextLead = "red";
          this.focusReading();
          // What was typed on while the answer was on its way is the next entry.
          if (answer.ok && typed !== sent && this.form()) this.write(typed);
        }
        this.showRoot();
        this.prepare();
      } catch (error) {
        if (error.name === "AbortError") return;
        const place = this.$root.querySelector("#reading-error");
        const text = error instanceof TypeError ? "Pondrel does not answer: the reading is not written yet. Try again when it is back." : error.message;
        if (place) place.textContent = text;
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
      if (waits && this.form()?.elements.value.value.trim()) this.form().requestSubmit();
    },
    // What is in the field, and which of the form's fields, or which place of the diagram, has the keys.
    held() {
      const form = this.form();
      const active = document.activeElement;
      if (!form) return null;
      const place = active.matches("[data-place][role=button]") ? active.dataset.place : "";
      return { value: form.elements.value.value, name: form.contains(active) ? active.name : "", place };
    },
    takeUp(held) {
      const form = this.form();
      if (!form) return;
      form.elements.value.value = held.value;
      const place = held.place && this.$root.querySelector(`[data-place="${CSS.escape(held.place)}"][role=button]`);
      if (place) place.focus({ preventScroll: true });
      else if (held.name && form.elements[held.name]?.focus) form.elements[held.name].focus({ preventScroll: true });
      if (held.value.trim() !== "") this.look();
    },
    sentence(html) {
      const found = new DOMParser().parseFromString(html, "text/html").querySelector("[role=alert]");
      return found ? found.textContent : "That did not work: load the page again.";
    },
    async submit(event) {
      event.preventDefault();
      if (this.busy && !this.drawing) {
        this.waits = event.target === this.form() && !event.submitter?.name;
        return;
      }
      // Undoing, striking out and leaving out answer another question than what is in the field.
      const keeps = ["skip", "caution"].includes(event.submitter?.name) || event.target !== this.form();
      const action = event.submitter?.hasAttribute("formaction") ? event.submitter.formAction : event.target.action;
      await this.fetchInto(action, { method: "POST", body: new FormData(event.target, event.submitter) }, keeps);
    },
    click(event) {
      const place = event.target.closest("[data-place][role=button]");
      const draw = event.target.closest("a[data-draw]");
      const answer = event.target.closest("button[name=answer]");
      const line = event.target.closest("[data-line]");
      const plug = event.target.closest("[data-unplug]");
      if (place) this.probe(place.dataset.place);
      else if (plug) this.unplug(plug.dataset.unplug);
      else if (answer) {
        event.preventDefault();
        this.answer(answer.value);
      }
      else if (line) this.take(line.dataset.line);
      else if (draw) {
        event.preventDefault();
        this.draw(draw);
      }
    },
    // One touch answers what was asked.
    answer(word) {
      const form = this.form();
      form.elements.value.value = word;
      form.requestSubmit();
    },
    take(line) {
      this.write(`${line} `);
    },
    write(text) {
      const field = this.form().elements.value;
      field.value = text;
      field.focus();
      this.look();
    },
    // A place touched while a look is asked for joins what is in the field: a bare number gets a voltmeter, words go on with it.
    placeInLine(name) {
      const typed = this.form().elements.value.value.trim();
      if (typed === "") this.write(`volts ${name} `);
      else if (/^[-+.\d]/.test(typed)) this.write(`volts ${name} ${typed}`);
      else this.write(`${typed} ${name} `);
    },
    // The person's own test: the server says what goes with it.
    choose(event) {
      if (!["instrument", "state", "red", "black", "unplugged"].includes(event.target.name) || event.target.form !== this.form()) return;
      this.ask();
    },
    ask() {
      const fields = this.form().elements;
      const url = new URL(location.href);
      for (const name of ["take", "instrument", "in", "red", "black", "unplugged"]) url.searchParams.delete(name);
      url.searchParams.set("instrument", fields.instrument.value);
      url.searchParams.set("in", fields.state.value);
      url.searchParams.set("state", fields.state.value);
      url.searchParams.set("red", fields.red.value);
      url.searchParams.set("black", fields.black.value);
      if (fields.unplugged.value.trim()) url.searchParams.set("unplugged", fields.unplugged.value);
      history.replaceState(null, "", url);
      this.fetchInto(url, undefined, true);
    },
    // What the typed line would do, before it is entered: the server says.
    look() {
      clearTimeout(this.waiting);
      this.waiting = setTimeout(() => this.preview(), 180);
    },
    async preview() {
      const form = this.form();
      const into = this.$root.querySelector("[data-preview-into]");
      if (!form || !into) return;
      const typed = form.elements.value.value;
      const turn = ++this.turn;
      if (typed.trim() === "") return into.replaceChildren();
      try {
        const answer = await fetch(this.previewOf(form, typed));
        const text = await answer.text();
        if (turn === this.turn && answer.ok) into.innerHTML = text;
      } catch {
        into.replaceChildren(); // the entry itself will say that the server is gone
      }
    },
    previewOf(form, value) {
      const url = new URL(form.dataset.preview, location.href);
      for (const name of ["state", "instrument", "red", "black", "unplugged"]) url.searchParams.set(name, form.elements[name].value);
      url.searchParams.set("value", value);
      return url;
    },
    // While the person looks, the server works out what each answer would mean: one touch then finds it ready.
    async prepare() {
      const form = this.form();
      const turn = this.turn;
      for (const button of form ? form.querySelectorAll("button[name=answer]") : []) {
        await new Promise((resolve) => setTimeout(resolve, 250));
        if (turn !== this.turn) return;
        // Read to its end: an answer left unread keeps one of the browser's few connections.
        await fetch(this.previewOf(form, button.value)).then((answer) => answer.text()).catch(() => null);
      }
    },
    draw(link) {
      const url = new URL(link.href);
      history.replaceState(null, "", url);
      this.fetchInto(url, undefined, true);
    },
    keydown(event) {
      const place = event.target.closest("[data-place][role=button]");
      const plug = event.target.closest("[data-unplug]");
      if ((place || plug) && (event.key === "Enter" || event.key === " ")) {
        event.preventDefault();
        if (place) this.probe(place.dataset.place);
        else this.unplug(plug.dataset.unplug);
      }
    },
    // Clicked places take red and black in turn.
    probe(name) {
      const form = this.form();
      if (!form) return;
      if (form.elements.red.type === "hidden") return this.placeInLine(name);
      form.elements[this.nextLead].value = name;
      this.nextLead = this.nextLead === "red" ? "black" : "red";
      form.elements.value.focus({ preventScroll: true });
      this.ask();
    },
    // A touched part is unplugged for the person's own test, and plugged in again by the next touch.
    unplug(name) {
      const field = this.form()?.elements.unplugged;
      if (!field || field.type === "hidden") return;
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
        const link = this.$root.querySelector(`[data-take="${event.key}"]`);
        if (!link) return;
        this.draw(link);
      } else if (event.key === "s" || event.key === "p") this.step(event.key === "s" ? "state" : "load");
      else if (event.key === "v") this.step("view");
      else if (event.key === "z") {
        const undo = this.$root.querySelector("[data-undo]");
        if (!undo) return;
        undo.form.requestSubmit();
      } else if (event.key === "u") {
        const strike = this.$root.querySelector(".log details.strike");
        if (!strike) return;
        strike.open = true;
        strike.querySelector("input[name=reason]").focus();
      } else if (inValue) {
        document.getElementById("keys").showModal();
      } else return;
      event.preventDefault();
    },
    step(which) {
      const links = [...this.$root.querySelectorAll(`.tabs a[data-draw="${which}"]`)];
      const at = links.findIndex((link) => link.classList.contains("on"));
      if (links.length) this.draw(links[(at + 1) % links.length]);
    },
  }));

  // What is written down on the job's page: each kind asks for its own fields.
  Alpine.data("writing", () => ({
    kind: "note",
    init() {
      this.kind = this.$root.dataset.kind;
    },
    get asksWorks() {
      return this.kind === "proof";
    },
    get asksFor() {
      return this.kind === "waits";
    },
    get asksPart() {
      return this.kind === "remedy";
    },
  }));

  // What-if on a sheet: the server works out the same page's middle again.
  Alpine.data("sheet", () => ({
    async load(url) {
      history.replaceState(null, "", url);
      const answer = await fetch(url, { headers: { "X-Fragment": "1" } });
      if (!answer.ok) return location.assign(url);
      const scroll = this.$root.querySelector(".fault-scroll")?.scrollTop || 0;
      const was = document.activeElement?.name;
      this.$root.innerHTML = await answer.text();
      const list = this.$root.querySelector(".fault-scroll");
      if (list) list.scrollTop = scroll;
      if (was) this.$root.querySelector(`[name="${CSS.escape(was)}"]`)?.focus();
    },
    asked(form) {
      const url = new URL(location.pathname, location.href);
      for (const [name, value] of new FormData(form)) if (value) url.searchParams.set(name, value);
      return url;
    },
    change(event) {
      const form = event.target.closest("form.what-if");
      if (!form) return;
      // Another fault has another size: the old one's does not go with it.
      if (event.target.name === "fault") form.elements.value?.removeAttribute("name");
      this.load(this.asked(form));
    },
    submit(event) {
      if (!event.target.matches("form.what-if")) return;
      event.preventDefault();
      this.load(this.asked(event.target));
    },
    click(event) {
      const link = event.target.closest("a[data-go]");
      if (!link || event.ctrlKey || event.metaKey || event.shiftKey) return;
      event.preventDefault();
      this.load(new URL(link.href));
    },
  }));

  // The sheet editor: flaws stand beside their lines while one types.
  Alpine.data("editor", () => ({
    asked: 0,
    init() {
      this.text = this.$root.querySelector("textarea");
      this.list = this.$root.querySelector("[data-flaws]");
      this.lines = this.$root.querySelector("[data-lines]");
      this.text.addEventListener("scroll", () => this.place());
      this.list.addEventListener("click", (event) => this.jump(event));
      this.number();
      this.place();
    },
    number() {
      const count = this.text.value.split("\n").length;
      this.lines.textContent = Array.from({ length: count }, (_, i) => i + 1).join("\n");
    },
    lineHeight() {
      return parseFloat(getComputedStyle(this.text).lineHeight);
    },
    place() {
      const height = this.lineHeight();
      this.lines.scrollTop = this.text.scrollTop;
      let below = -Infinity;
      for (const item of this.list.children) {
        // Beside its line, but never over the one before.
        const top = Math.max((Number(item.dataset.line) - 1) * height - this.text.scrollTop, below);
        item.style.top = `${top}px`;
        below = top + item.offsetHeight + 2;
      }
    },
    async check(event) {
      if (event.target !== this.text) return;
      this.number();
      const turn = ++this.asked;
      const body = new FormData();
      body.set("text", this.text.value);
      body.set("csrf_token", this.$root.elements.csrf_token.value);
      let flaws, remarks;
      try {
        const answer = await fetch(this.$root.dataset.check, { method: "POST", body });
        ({ flaws, remarks } = await answer.json());
      } catch {
        return; // the server checks again when the sheet is stored
      }
      if (turn !== this.asked) return;
      this.list.replaceChildren(...flaws.map((flaw) => this.item(flaw)), ...remarks.map((remark) => this.item(remark, "remark")));
      const good = remarks.length ? "No flaws; mind what stands beside it" : "Good as it is";
      this.$root.querySelector("[data-count]").textContent = flaws.length ? `${flaws.length} ${flaws.length === 1 ? "flaw" : "flaws"}` : good;
      this.place();
    },
    item(flaw, kind = "") {
      const item = document.createElement("li");
      item.className = kind;
      item.dataset.line = flaw.line;
      const link = document.createElement("a");
      link.href = "#";
      link.dataset.line = flaw.line;
      const strong = document.createElement("b");
      strong.textContent = `line ${flaw.line}`;
      link.append(strong, ` ${flaw.path}`);
      item.append(link, ` ${flaw.says}`);
      return item;
    },
    jump(event) {
      const link = event.target.closest("a[data-line]");
      if (!link) return;
      event.preventDefault();
      const lines = this.text.value.split("\n");
      const start = lines.slice(0, Number(link.dataset.line) - 1).join("\n").length + (link.dataset.line === "1" ? 0 : 1);
      this.text.focus();
      this.text.setSelectionRange(start, start + (lines[Number(link.dataset.line) - 1] || "").length);
    },
    keydown(event) {
      if ((event.ctrlKey || event.metaKey) && event.key === "s") {
        event.preventDefault();
        this.$root.requestSubmit();
      }
    },
  }));
});
