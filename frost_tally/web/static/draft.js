"use strict";

// A form that the server draws anew after a tap or while somebody types: other units, another class; nothing is kept by it.
document.addEventListener("alpine:init", () => {
  window.Alpine.data("draft", () => ({
    init() {
      const form = this.$root;
      form.addEventListener("submit", (event) => {
        if (!event.submitter || event.submitter.name !== "act") return;
        event.preventDefault();
        this.send(event.submitter.value);
      });
      form.addEventListener("change", (event) => { if (event.target.closest("#ways")) this.send("look"); });
      form.addEventListener("input", () => {
        if (!form.querySelector('[data-part="result"]')) return;
        clearTimeout(this.later);
        this.later = setTimeout(() => this.send("look", "result"), 200);
      });
    },

    // One after the other: each answer builds on the one before.
    send(act, part = "form") {
      const form = this.$root;
      form.dataset.waiting = Number(form.dataset.waiting || 0) + 1;
      this.sent = (this.sent || Promise.resolve()).then(() => this.answer(act, part)).finally(() => { form.dataset.waiting -= 1; });
    },

    async answer(act, part) {
      const form = this.$root;
      const fields = new FormData(form);
      fields.set("act", act);
      const answer = await fetch(form.dataset.draft, { method: "POST", body: new URLSearchParams(fields) }).catch(() => null);
      if (!answer || !answer.ok) return;
      const fresh = new DOMParser().parseFromString(await answer.text(), "text/html").querySelector(`[data-part="${part}"]`);
      const here = form.querySelector(`[data-part="${part}"]`);
      const at = document.activeElement;
      for (const each of here.querySelectorAll("details[id]")) fresh.querySelector(`#${each.id}`).open = each.open;
      for (const field of here.querySelectorAll("input:not([type=hidden])")) { // typed while the answer was on its way
        if (fields.get(field.name) !== field.value) fresh.querySelector(`[name="${field.name}"]`).value = field.value;
      }
      here.replaceChildren(...fresh.childNodes);
      const again = part === "form" && at && here.querySelector(at.name === "act" ? `[value="${CSS.escape(at.value)}"]` : `#${at.id || "none"}`);
      if (again) again.focus();
    },
  }));
});
