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
      if (part === "form") this.patch(here, fresh, fields, act);
      else here.replaceChildren(...fresh.childNodes);
    },

    // What changed is changed in place: a field that somebody has in hand stays the same one, and what was typed since stays in it.
    patch(here, fresh, sent, act) {
      const names = (part) => [...part.querySelectorAll("input, select")].map((field) => field.name).join();
      if (names(here) !== names(fresh)) { here.replaceChildren(...fresh.childNodes); return; } // other fields are asked for
      const replace = (old, next) => { if (next && old.innerHTML !== next.innerHTML) old.replaceChildren(...next.childNodes); };
      for (const field of here.querySelectorAll("input, select")) {
        const next = fresh.querySelector(`[name="${CSS.escape(field.name)}"]`);
        if (!next) continue;
        const inHand = field === document.activeElement && /^(class|kind)/.test(act);
        const untouched = field.type === "hidden" || sent.get(field.name) === field.value;
        if (untouched && !inHand && field.value !== next.value) field.value = next.value;
        field.className = next.className;
        if (!next.hasAttribute("aria-invalid")) field.removeAttribute("aria-invalid");
      }
      for (const each of here.querySelectorAll("label[for]")) replace(each, fresh.querySelector(`label[for="${CSS.escape(each.htmlFor)}"]`));
      for (const each of here.querySelectorAll("[id$='-hint'], [id$='-error']")) replace(each, fresh.querySelector(`#${CSS.escape(each.id)}`));
      for (const each of here.querySelectorAll("[data-part]")) replace(each, fresh.querySelector(`[data-part="${each.dataset.part}"]`));
      for (const tap of here.querySelectorAll('button[name="act"]')) {
        const next = fresh.querySelector(`button[name="act"][value="${CSS.escape(tap.value)}"]`);
        if (!next) continue;
        tap.className = next.className;
        tap.setAttribute("aria-pressed", next.getAttribute("aria-pressed"));
      }
      for (const said of here.querySelectorAll('[role="alert"]')) said.remove();
    },
  }));
});
