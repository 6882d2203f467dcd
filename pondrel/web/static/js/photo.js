// Marks on a photo: a touch sets a point, its words are typed beside it. The server checks and keeps them; the photo stays as it is.
import { disc, touched } from "./points.js";

const MOST = 12;

document.addEventListener("alpine:init", () => {
  Alpine.data("marking", () => ({
    marks: [],
    init() {
      this.marks = JSON.parse(this.$root.dataset.marks);
      this.draw();
    },
    add(event) {
      if (this.marks.length >= MOST) return;
      this.marks.push([...touched(event, this.$refs.photo), ""]);
      this.draw();
      this.$refs.list.querySelector("li:last-child input").focus();
    },
    drop() {
      this.marks.pop();
      this.draw();
    },
    send() {
      this.$refs.marks.value = JSON.stringify(this.marks);
    },
    draw() {
      const width = Number(this.$root.dataset.width);
      const height = Number(this.$root.dataset.height);
      const unit = Math.max(width, height) / 100;
      this.$refs.drawn.replaceChildren(
        ...this.marks.map(([x, y], at) => disc(x * width, y * height, 2.4 * unit, 3 * unit, at + 1, "photo-mark")),
      );
      this.$refs.list.replaceChildren(
        ...this.marks.map((mark, at) => {
          const item = document.createElement("li");
          const number = document.createElement("b");
          const field = document.createElement("input");
          number.textContent = String(at + 1);
          field.value = mark[2];
          field.maxLength = 60;
          field.setAttribute("aria-label", `What is at mark ${at + 1}`);
          field.addEventListener("input", () => {
            mark[2] = field.value;
          });
          item.append(number, field);
          return item;
        }),
      );
    },
  }));
});
