// Marks on a photo: a touch sets a point, its words are typed beside it. The server checks and keeps them; the photo stays as it is.
const SVG = "http://www.w3.org/2000/svg";
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
      const box = this.$refs.photo.getBoundingClientRect();
      const share = (at, from, length) => Math.min(Math.max((at - from) / length, 0), 1);
      this.marks.push([share(event.clientX, box.left, box.width), share(event.clientY, box.top, box.height), ""]);
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
        ...this.marks.map(([x, y], at) => {
          const group = document.createElementNS(SVG, "g");
          group.setAttribute("class", "photo-mark");
          const circle = document.createElementNS(SVG, "circle");
          const number = document.createElementNS(SVG, "text");
          for (const [name, value] of [["cx", x * width], ["cy", y * height], ["r", 2.4 * unit]]) circle.setAttribute(name, value);
          for (const [name, value] of [["x", x * width], ["y", y * height], ["font-size", 3 * unit]]) number.setAttribute(name, value);
          number.textContent = String(at + 1);
          group.append(circle, number);
          return group;
        }),
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
