document.addEventListener("alpine:init", () => {
  // What is written down on the job's page: each kind asks for its own fields.
  Alpine.data("writing", () => ({
    kind: "note",
    init() {
      this.kind = this.$root.dataset.kind;
    },
    get asksFor() {
      return this.kind === "waits";
    },
  }));

  // The record, all of it or one sort of its lines.
  Alpine.data("record", () => ({
    shows: "all",
    choose(event) {
      this.shows = event.target.closest("[data-shows]")?.dataset.shows ?? this.shows;
    },
    chosen(name) {
      return { on: this.shows === name };
    },
    pressed(name) {
      return String(this.shows === name);
    },
  }));
});

document.addEventListener("alpine:init", () => {
  // The complaint: minutes are asked for where it comes some minutes after the start.
  Alpine.data("telling", () => ({
    started: false,
    init() {
      this.started = this.$root.querySelector("[name=under][value=start]").checked;
    },
  }));
});
