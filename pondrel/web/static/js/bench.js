// The bench: whatever is typed or touched is judged by the server while one goes on; only what it comes to is drawn anew.
import { middle } from "./fragment.js";
import { liveMeter } from "./live.js";

const UPRIGHT = window.matchMedia("(max-width: 1000px)");
const WIRED_UNITS = ["Ω", "V", "A"];
const PARTS = ["says", "ways", "serve"];

document.addEventListener("alpine:init", () => {
  Alpine.data("bench", () => ({
    turn: 0,
    waiting: 0,
    field: null, // the one that the pad writes into
    init() {
      const big = this.$root.querySelector("[x-ref=value]");
      if (document.activeElement === document.body) big?.focus({ preventScroll: true });
      // A field that was touched before this script was there.
      if (this.$root.contains(document.activeElement)) this.focused({ target: document.activeElement });
      this.$nextTick(() => {
        if (this.$refs.grid) this.fillGrid();
        if (this.$root.querySelector("[data-draft-says]:not([hidden])")) this.look(); // typed before and brought back
      });
      this.live = liveMeter(this.$root, () => this.wired(), (typed) => this.takeLive(typed));
    },
    // The table shows what its lines say, also where these were typed before and brought back.
    fillGrid() {
      const [heading, ...lines] = this.$refs.points.value.split("\n").filter((line) => line.trim());
      const empty = (row) => [...row.querySelectorAll("[data-cell]:not([type=hidden])")].every((cell) => !cell.value);
      const rows = () => [...this.$refs.grid.querySelectorAll("[data-row]")];
      if (!heading?.includes(";") || !rows().every(empty)) return;
      for (const line of lines) {
        const cells = line.split(";");
        const own = rows().find((row) => row.querySelector("[data-cell][type=hidden]")?.value === cells[0]);
        const row = own ?? rows().find((free) => !free.querySelector("[data-cell][type=hidden]") && empty(free)) ?? this.anotherRow();
        [...row.querySelectorAll("[data-cell]")].forEach((cell, at) => (cell.value = cells[at] ?? ""));
      }
    },
    // What the chosen meter is asked for: the unit of the field that has the keys.
    wired() {
      const chosen = this.$root.elements.meter.selectedOptions[0];
      const unit = (this.field ?? this.$root.querySelector("[x-ref=value]"))?.dataset.unit;
      if (!chosen.hasAttribute("data-wired") || !WIRED_UNITS.includes(unit)) return null;
      return new URLSearchParams({ meter: chosen.value, unit });
    },
    takeLive(typed) {
      const field = this.field ?? this.$root.querySelector("[x-ref=value]");
      // A sweep is recorded line by line: move it, take the number, move on.
      field.value = field.matches("textarea") ? `${field.value.trimEnd()}\n${typed}`.trimStart() : typed;
      field.dispatchEvent(new Event("input", { bubbles: true }));
    },
    destroy() {
      this.live.stop();
    },
    focused(event) {
      if (!event.target.matches("input[name^='r.'], input[name^='c.'], textarea[name=points]") || event.target.type === "radio") return;
      this.field = event.target;
      if (event.target.matches("textarea")) return;
      const box = this.$refs.padbox;
      box.hidden = !UPRIGHT.matches;
      event.target.inputMode = UPRIGHT.matches ? "none" : "text";
    },
    // A touch on the pad goes into the field that has the keys.
    press(event) {
      const key = event.target.closest("[data-press]")?.dataset.press;
      const field = this.field;
      if (!key || !field) return;
      event.preventDefault();
      if (key === "words") {
        field.inputMode = "text";
        field.blur();
        field.focus();
        return;
      }
      if (key === "back") field.value = field.value.slice(0, -1);
      else if (key === "OL") field.value = "OL";
      else field.value += key;
      field.dispatchEvent(new Event("input", { bubbles: true }));
    },
    clicked(event) {
      this.focused(event); // a touch on the field that had the keys already asks for the pad too
      const over = event.target.closest("[data-over]");
      if (over) return this.put(this.$root.querySelector("[x-ref=value]"), over.dataset.over);
      if (event.target.closest("[data-zeroed]")) return this.put(this.$root.elements["s.leads"], "0");
      if (event.target.closest("[data-live-zero]")) {
        const ohms = this.live.number();
        if (ohms && !ohms.startsWith("OL")) this.put(this.$root.elements["s.leads"], ohms);
        return;
      }
      const limit = event.target.closest("[data-limit]");
      if (!limit) return;
      this.$refs.limit.value = limit.dataset.limit;
      limit.closest("details").open = false;
      this.changed(event);
    },
    put(field, text) {
      field.value = text;
      field.dispatchEvent(new Event("input", { bubbles: true }));
    },
    // A table that is typed into becomes the lines that the server reads.
    gridded() {
      const rows = [...this.$refs.grid.querySelectorAll("[data-row]")].map((row) =>
        [...row.querySelectorAll("[data-cell]")].map((cell) => cell.value.trim().replaceAll(";", ",")),
      );
      const filled = rows.filter((cells) => cells.slice(1).some(Boolean));
      const heading = this.$refs.points.placeholder.replaceAll(",", ";");
      this.$refs.points.value = filled.length ? [heading, ...filled.map((cells) => cells.join(";"))].join("\n") : "";
    },
    anotherRow() {
      const last = [...this.$refs.grid.querySelectorAll("[data-row]")].at(-1);
      const fresh = last.cloneNode(true);
      for (const cell of fresh.querySelectorAll("[data-cell]")) {
        cell.value = "";
        if (cell.type === "hidden") cell.type = "text";
      }
      for (const said of fresh.querySelectorAll("b, small")) said.remove();
      last.after(fresh);
      fresh.querySelector("[data-cell]").focus({ preventScroll: true });
      return fresh;
    },
    // Out of the field letters are the page's keys.
    leave(event) {
      event.target.blur();
    },
    // Enter judges; only its own button keeps.
    submitted(event) {
      if (event.submitter?.hasAttribute("formaction")) return;
      event.preventDefault();
      const field = document.activeElement;
      if (field === this.field && !field.value && this.live.taken()) return;
      this.look();
    },
    changed(event) {
      if (event.target.closest(".pad")) return;
      // Another socket has other pins: the page is drawn anew with all that was typed.
      if (event.type === "change" && event.target.closest("[data-early]") && this.$refs.grid) return this.$root.submit();
      clearTimeout(this.waiting);
      this.waiting = setTimeout(() => this.look(), 150);
    },
    async look() {
      const turn = ++this.turn;
      const body = new FormData(this.$root);
      try {
        const { html } = await middle(this.$root.dataset.address, { method: "POST", body });
        if (turn === this.turn) this.show(html);
      } catch (error) {
        if (turn === this.turn) this.$refs.says.textContent = error.message;
      }
    },
    // What the chips say of what was chosen behind them.
    tell() {
      const { limit, vehicle, meter, "s.leads": leads } = this.$root.elements;
      const said = limit.value.split("\n").map((line) => line.trim()).filter(Boolean);
      this.$refs.saidLimit.textContent = said.join("; ") || "usual";
      this.$refs.saidVehicle.textContent = vehicle.selectedOptions[0].textContent;
      this.$refs.saidMeter.textContent = meter.value;
      const ohms = leads.value.trim();
      this.$refs.saidLeads.textContent = ohms === "0" ? "meter, leads zeroed" : ohms ? `meter, leads ${ohms} Ω` : "meter";
    },
    show(html) {
      this.tell();
      const fresh = new DOMParser().parseFromString(html, "text/html");
      for (const part of PARTS) {
        const own = fresh.querySelector(`[data-part=${part}]`);
        if (own) this.$refs[part].replaceChildren(...own.childNodes);
      }
    },
  }));
});
