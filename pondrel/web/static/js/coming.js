// A file that is being read, or a bus that is recorded: how far it is, and on to its page when it is there.
const EVERY = 400; // milliseconds

document.addEventListener("alpine:init", () => {
  Alpine.data("coming", () => ({
    timer: 0,
    init() {
      if (this.$refs.bar) this.look();
    },
    destroy() {
      clearTimeout(this.timer);
    },
    async look() {
      try {
        const answer = await fetch(this.$root.dataset.state);
        const state = await answer.json();
        this.$refs.bar.value = state.share;
        if (state.says) this.$refs.says.textContent = state.says;
        if (state.address) {
          window.location.replace(state.address);
          return;
        }
        if (state.ended) {
          window.location.reload();
          return;
        }
      } catch {
        this.$refs.says.textContent = "Pondrel does not answer just now; it is asked again.";
      }
      this.timer = setTimeout(() => this.look(), EVERY);
    },
  }));
});
