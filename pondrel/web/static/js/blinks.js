// Blinks touched along: the button is held as long as the lamp is on; the server counts, and the code is put where codes are typed.
document.addEventListener("alpine:init", () => {
  Alpine.data("blinks", () => ({
    spans: [],
    began: 0,
    first: 0,
    on() {
      if (this.began) return;
      this.began = performance.now();
      if (!this.first) this.first = this.began;
      this.$refs.touch.classList.add("held");
    },
    off() {
      if (!this.began) return;
      const at = (time) => ((time - this.first) / 1000).toFixed(2);
      this.spans.push(`${at(this.began)}-${at(Math.max(performance.now(), this.began + 20))}`);
      this.began = 0;
      this.$refs.touch.classList.remove("held");
      this.$refs.says.textContent = `${this.spans.length} ${this.spans.length === 1 ? "blink" : "blinks"}`;
    },
    press(event) {
      if (event.key !== " " && event.key !== "Enter") return;
      event.preventDefault();
      if (!event.repeat) this.on();
    },
    release(event) {
      if (event.key === " " || event.key === "Enter") this.off();
    },
    afresh() {
      this.spans = [];
      this.first = 0;
      this.$refs.says.textContent = "";
    },
    count() {
      return this.take(`${this.$root.dataset.count}?at=${this.spans.join(",")}`);
    },
    seen(event) {
      return this.take(event.currentTarget.dataset.from);
    },
    async take(address) {
      const found = await fetch(address).then((answer) => answer.json()).catch(() => ({ says: "Pondrel does not answer: count again." }));
      this.$refs.says.textContent = found.says;
      if (!found.code) return;
      const field = document.querySelector("textarea[name=codes]");
      field.value = `${field.value}${field.value && !field.value.endsWith("\n") ? "\n" : ""}${found.code}\n`;
      field.dispatchEvent(new Event("input", { bubbles: true }));
      this.spans = [];
      this.first = 0;
    },
  }));
});
