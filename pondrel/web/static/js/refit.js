// A fastener card: a touch sets one, its size is typed beside it and is the next one's until it is changed. The server checks and
// orders them.
import { disc, touched } from "./points.js";

const MOST = 40;

document.addEventListener("alpine:init", () => {
  Alpine.data("carding", () => ({
    fasteners: [],
    init() {
      // What a refused card was drawn with.
      this.fasteners = JSON.parse(this.$root.dataset.kept);
      this.draw();
      if (this.$refs.chosen) this.lay();
    },
    add(event) {
      if (this.fasteners.length >= MOST) return;
      const last = this.fasteners.at(-1);
      this.fasteners.push([...touched(event, this.$refs.card), last ? last[2] : "", ""]);
      this.draw();
      this.$refs.list.querySelector("li:last-child input").focus();
    },
    drop() {
      this.fasteners.pop();
      this.draw();
    },
    lay() {
      const address = this.$refs.chosen.selectedOptions[0].dataset.address ?? "";
      this.$refs.photo.setAttribute("href", address);
      this.$refs.cover.setAttribute("display", address ? "none" : "inline");
    },
    send() {
      this.$refs.fasteners.value = JSON.stringify(this.fasteners);
    },
    draw() {
      this.$refs.drawn.replaceChildren(...this.fasteners.map(([x, y], at) => disc(400 * x, 280 * y, 13, 15, at + 1, "fastener")));
      this.$refs.list.replaceChildren(
        ...this.fasteners.map((fastener, at) => {
          const item = document.createElement("li");
          const number = document.createElement("b");
          number.textContent = String(at + 1);
          item.append(number);
          for (const [place, words] of [[2, "length and size"], [3, "seized, stripped?"]]) {
            const field = document.createElement("input");
            field.value = fastener[place];
            field.maxLength = 40;
            field.placeholder = words;
            field.setAttribute("aria-label", `${words} of ${at + 1}`);
            field.addEventListener("input", () => {
              fastener[place] = field.value;
            });
            item.append(field);
          }
          return item;
        }),
      );
    },
  }));
});
