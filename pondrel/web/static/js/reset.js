// Seconds without supply and until a module wakes, touched along; where a talk is under way, it is heard when the module answers again.
const EVERY = 100; // milliseconds
const ASKED = 400;
const PATIENCE = 20; // seconds, after which it is not likely to wake any more

document.addEventListener("alpine:init", () => {
  Alpine.data("reset", () => ({
    offAt: 0,
    onAt: 0,
    timer: 0,
    asked: 0,
    destroy() {
      clearInterval(this.timer);
      clearInterval(this.asked);
    },
    off() {
      this.destroy();
      [this.offAt, this.onAt] = [performance.now(), 0];
      this.$refs.on.disabled = false;
      this.$refs.offField.value = "";
      this.$refs.wokeField.value = "";
      this.timer = setInterval(() => this.tick(), EVERY);
      this.$refs.off.textContent = "Begin again";
      this.$refs.off.classList.remove("go");
      this.$refs.on.classList.add("go");
      if (this.$root.dataset.listen) this.listen();
    },
    on() {
      if (!this.offAt || this.onAt) return;
      this.onAt = performance.now();
      this.$refs.on.disabled = true;
      this.$refs.offField.value = ((this.onAt - this.offAt) / 1000).toFixed(1);
      this.$refs.says.textContent = this.$root.dataset.listen ? "Waiting until it answers." : "Does it work again? Say so below.";
    },
    tick() {
      const now = performance.now();
      const wanted = Number(this.$root.dataset.offFor);
      if (this.onAt) {
        const waited = (now - this.onAt) / 1000;
        this.$refs.seconds.textContent = `${waited.toFixed(1)} s`;
        if (waited > PATIENCE && this.$root.dataset.listen) this.$refs.says.textContent = "Still silent: it does not work, say so below.";
        return;
      }
      const off = (now - this.offAt) / 1000;
      this.$refs.seconds.textContent = `${off.toFixed(1)} s`;
      const left = (wanted - off).toFixed(0);
      this.$refs.says.textContent = off < wanted ? `Off. ${left} s more.` : `Off for the ${wanted} s: give it its supply.`;
    },
    async listen() {
      const sends = new FormData();
      sends.set("csrf_token", this.$root.querySelector("input[name=csrf_token]").value);
      await fetch(this.$root.dataset.listen, { method: "POST", body: sends, redirect: "manual" }).catch(() => null);
      this.asked = setInterval(() => this.hear(), ASKED);
    },
    async hear() {
      const found = await fetch(this.$root.dataset.state).then((answer) => (answer.ok ? answer.json() : null)).catch(() => null);
      const heard = found?.waking;
      if (heard?.module !== this.$root.dataset.module) return;
      if (this.onAt && heard.awake !== null) {
        // What was heard is as late as one call; the touch is what counts before it.
        const woke = Math.max((performance.now() - this.onAt) / 1000, 0);
        this.$refs.wokeField.value = woke.toFixed(1);
        this.$refs.says.textContent = "It answers again. Does it work, too? Say so below.";
        this.destroy();
        this.$refs.seconds.textContent = `${woke.toFixed(1)} s`;
      } else if (this.onAt && heard.silent === null) {
        this.$refs.says.textContent = "It never fell silent: is this the right fuse?";
      }
    },
  }));
});
