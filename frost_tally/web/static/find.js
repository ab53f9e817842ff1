"use strict";

// The Why page: rows that have the typed words stay, and a link to a number opens the room it is folded in.
document.addEventListener("alpine:init", () => {
  window.Alpine.data("find", () => ({
    init() {
      this.$root.querySelector("input").addEventListener("input", (event) => this.look(event.target.value));
      window.addEventListener("hashchange", () => this.open());
      this.open();
    },

    look(typed) {
      const words = typed.toLowerCase().split(/\s+/).filter(Boolean);
      let count = 0;
      for (const folded of document.querySelectorAll("details.room-figures")) {
        let inside = 0;
        for (const part of folded.querySelectorAll("section")) {
          const named = `${folded.querySelector("h2").textContent} ${part.querySelector("h3").textContent}`;
          let rows = 0;
          for (const row of part.querySelectorAll("tbody tr")) {
            const text = `${named} ${row.textContent}`.toLowerCase();
            row.hidden = !words.every((word) => text.includes(word));
            rows += !row.hidden;
          }
          part.hidden = !rows;
          inside += rows;
        }
        folded.hidden = !inside;
        folded.open = Boolean(words.length && inside);
        count += inside;
      }
      clearTimeout(this.later); // what the screens have is worked out only for who looks for it
      if (words.length) this.later = setTimeout(() => this.screens(typed), 350);
      this.$refs.voice.textContent = words.length ? `${count} numbers found.` : "";
    },

    async screens(typed) {
      const answer = await fetch(`/basis?find=${encodeURIComponent(typed)}`).catch(() => null);
      if (!answer || !answer.ok || this.$root.querySelector("input").value !== typed) return;
      const fresh = new DOMParser().parseFromString(await answer.text(), "text/html").getElementById("seen-part");
      document.getElementById("seen-part").replaceChildren(...fresh.childNodes);
    },

    open() {
      const row = location.hash && document.getElementById(decodeURIComponent(location.hash.slice(1)));
      const folded = row && row.closest("details");
      if (!folded) return;
      folded.open = true;
      row.scrollIntoView({ block: "center" });
    },
  }));
});
