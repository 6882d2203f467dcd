document.addEventListener("alpine:init", () => {
  // The sheet editor: flaws stand beside their lines while one types.
  Alpine.data("editor", () => ({
    asked: 0,
    count: "",
    init() {
      this.count = this.$root.dataset.count;
      this.number();
      this.place();
      const text = this.$refs.text;
      if (text.value !== text.defaultValue) this.check({ target: text }); // somebody was quicker than this script
    },
    number() {
      const count = this.$refs.text.value.split("\n").length;
      this.$refs.lines.textContent = Array.from({ length: count }, (_, i) => i + 1).join("\n");
    },
    lineHeight() {
      return parseFloat(getComputedStyle(this.$refs.text).lineHeight);
    },
    place() {
      const height = this.lineHeight();
      this.$refs.lines.scrollTop = this.$refs.text.scrollTop;
      let below = -Infinity;
      for (const item of this.$refs.flaws.children) {
        // Beside its line, but never over the one before.
        const top = Math.max((Number(item.dataset.line) - 1) * height - this.$refs.text.scrollTop, below);
        item.style.top = `${top}px`;
        below = top + item.offsetHeight + 2;
      }
    },
    async check(event) {
      if (event.target !== this.$refs.text) return;
      this.number();
      const turn = ++this.asked;
      const body = new FormData();
      body.set("text", this.$refs.text.value);
      body.set("csrf_token", this.$root.elements.csrf_token.value);
      let flaws, remarks;
      try {
        const answer = await fetch(this.$root.dataset.check, { method: "POST", body });
        ({ flaws, remarks } = await answer.json());
      } catch {
        return; // the server checks again when the sheet is stored
      }
      if (turn !== this.asked) return;
      this.$refs.flaws.replaceChildren(...flaws.map((flaw) => this.item(flaw)), ...remarks.map((remark) => this.item(remark, "remark")));
      const good = remarks.length ? "No flaws; mind what stands beside it" : "Good as it is";
      this.count = flaws.length ? `${flaws.length} ${flaws.length === 1 ? "flaw" : "flaws"}` : good;
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
      const lines = this.$refs.text.value.split("\n");
      const start = lines.slice(0, Number(link.dataset.line) - 1).join("\n").length + (link.dataset.line === "1" ? 0 : 1);
      this.$refs.text.focus();
      this.$refs.text.setSelectionRange(start, start + (lines[Number(link.dataset.line) - 1] || "").length);
    },
    keydown(event) {
      if ((event.ctrlKey || event.metaKey) && event.key === "s") {
        event.preventDefault();
        this.$root.requestSubmit();
      }
    },
  }));
});
