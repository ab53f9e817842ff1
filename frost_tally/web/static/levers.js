"use strict";

// Levers that repaint their room: one answer under way, only what changed is replaced.
const phone = matchMedia("(max-width: 767.98px)");

document.addEventListener("alpine:init", () => {
  window.Alpine.data("levers", () => ({
    asked: "",
    busy: false,
    again: false,
    drag: null,
    shown: {},

    init() {
      const form = this.$refs.form;
      form.addEventListener("input", (event) => this.pulled(event.target));
      form.addEventListener("change", (event) => this.pulled(event.target));
      form.addEventListener("formdata", (event) => { // what is as it was shown is not sent: it stays exactly as it is
        for (const field of form.querySelectorAll("[data-usual]")) if (field.value === field.dataset.usual) event.formData.delete(field.name);
      });
      form.addEventListener("submit", (event) => {
        if (event.submitter && event.submitter.name === "token") unkept.write(null); // a button that keeps
        else if (!event.submitter || !["fields", "pull"].includes(event.submitter.name)) { event.preventDefault(); this.ask(); }
      });
      for (const back of form.querySelectorAll(`a.btn-link[href^="${this.$root.dataset.room}?"], a.btn-link[href="${this.$root.dataset.room}"]`)) back.addEventListener("click", () => unkept.write(null));
      this.state();
      this.$refs.live.addEventListener("pointerdown", (event) => this.grab(event));
      this.$refs.live.addEventListener("click", (event) => this.drop(event));
      window.addEventListener("pointermove", (event) => this.move(event));
      window.addEventListener("pointerup", () => { this.drag = null; });
      window.addEventListener("pointercancel", () => { this.drag = null; });
    },

    // A slider and its field are one lever: each follows the other.
    pulled(control) {
      const field = control.dataset.for ? document.getElementById(control.dataset.for) : control;
      if (control.dataset.for) field.value = control.value.replace(".", document.body.dataset.decimal);
      const slider = document.querySelector(`[data-for="${field.id}"]`);
      if (slider && slider !== control) slider.value = field.value.replace(",", ".");
      this.ask();
    },

    // Ask for the pictures of these levers; while one answer is on its way, only the latest wish is kept.
    async ask() {
      if (this.busy) { this.again = true; return; }
      const query = this.query();
      if (query === this.asked) return;
      this.asked = query;
      this.busy = true;
      this.$refs.live.setAttribute("aria-busy", "true");
      const begun = performance.now();
      try {
        const answer = await ready(`${this.$root.dataset.live}?${query}&shape=${phone.matches ? "upright" : "wide"}`);
        if (answer.ok || answer.status === 422) {
          this.show(await answer.text(), begun);
          clearTimeout(this.later);
          this.later = setTimeout(() => this.complete(query), 700);
        }
      } catch {
        this.asked = ""; // the same levers may be asked for again
        this.$refs.voice.textContent = "There was no answer, so the pictures are still the ones before. Nothing is lost: pull again in a moment.";
      } finally {
        this.busy = false;
        this.$refs.live.setAttribute("aria-busy", "false");
        this.$refs.live.dataset.asked = query;
        if (this.again) { this.again = false; this.ask(); }
      }
    },

    query() {
      const fields = new FormData(this.$refs.form);
      for (const name of ["revision", "departure", "day_name"]) fields.delete(name);
      return new URLSearchParams(fields).toString();
    },

    show(html, begun) {
      const details = [...this.$root.querySelectorAll("[data-part] details[id]")].map((each) => [each.id, each.open]);
      const parts = new DOMParser().parseFromString(html, "text/html");
      for (const part of parts.querySelectorAll("[data-part]")) {
        const now = part.innerHTML;
        if (this.shown[part.dataset.part] === now) continue; // only what changed is replaced
        this.shown[part.dataset.part] = now;
        this.$root.querySelector(`[data-part="${part.dataset.part}"]`).replaceChildren(...part.childNodes);
      }
      for (const [id, open] of details) if (document.getElementById(id)) document.getElementById(id).open = open;
      stack(this.$root);
      this.state(true);
      this.$refs.voice.textContent = document.getElementById("verdict").textContent;
      requestAnimationFrame(() => { this.$refs.live.dataset.ms = (performance.now() - begun).toFixed(1); });
    },

    // The other shape of each picture, for paper and for a window of another width, once nobody pulls.
    async complete(query) {
      const answer = await fetch(`${this.$root.dataset.live}?${query}`).catch(() => null);
      if (!answer || !answer.ok || this.busy || this.asked !== query) return;
      const pictures = "[data-part] svg.ribbon, [data-part] svg.stair";
      const fresh = [...new DOMParser().parseFromString(await answer.text(), "text/html").querySelectorAll(pictures)];
      const here = [...this.$root.querySelectorAll(pictures)];
      if (this.busy || this.asked !== query || fresh.length !== 2 * here.length) return;
      here.forEach((picture, i) => {
        const [wide, upright] = fresh.slice(2 * i, 2 * i + 2);
        if (picture.classList.contains("ribbon-upright") || picture.classList.contains("stair-upright")) picture.before(wide);
        else picture.after(upright);
      });
    },

    // What the answer says of each lever: what will not do, and what is pulled and, where something can be kept, not kept yet.
    state(answered) {
      const state = this.$root.querySelector('[data-part="state"] ul');
      this.complain(Object.fromEntries([...state.children].map((each) => [each.dataset.field, each.textContent])));
      if (!this.$refs.form.querySelector('button[name="token"]')) return;
      const pulled = state.dataset.pulled.split(" ").filter(Boolean);
      const address = `${this.$root.dataset.room}?${this.query()}`;
      if (!pulled.length) {
        if (answered) unkept.write(null);
        return;
      }
      const words = pulled.map((name) => {
        const field = document.getElementById(`l-${name}`);
        const label = field && document.querySelector(`label[for="l-${name}"]`);
        return field ? `${label.firstChild.textContent.trim()} ${field.selectedOptions ? field.selectedOptions[0].textContent : field.value}` : name;
      }).join(", ");
      history.replaceState(null, "", address);
      unkept.write({ address, words, title: document.title.split(" · ")[0] });
    },

    complain(errors) {
      for (const place of this.$refs.form.querySelectorAll("[data-error]")) {
        const said = errors[place.dataset.error] || "";
        place.textContent = said;
        const field = document.getElementById(place.id.replace(/-error$/, ""));
        if (!field) continue;
        field.classList.toggle("is-invalid", Boolean(said));
        if (said) field.setAttribute("aria-invalid", "true");
        else field.removeAttribute("aria-invalid");
      }
    },

    grab(event) {
      const handle = event.target.closest("[data-handle]");
      if (!handle) return;
      const upright = handle.ownerSVGElement.classList.contains("ribbon-upright") && !("across" in handle.dataset);
      const scale = handle.ownerSVGElement.viewBox.baseVal.width / handle.ownerSVGElement.getBoundingClientRect().width;
      const field = document.getElementById(`l-${handle.dataset.handle}`);
      this.drag = { field, kind: handle.dataset.handle, per: Number(handle.dataset.per) / scale, upright, x: event.clientX, y: event.clientY, from: field.value };
      event.preventDefault();
    },

    // Where things are dropped on a picture: the first place that is free takes one, at the time that was pressed.
    drop(event) {
      const sky = event.target.closest("[data-drop]");
      const kinds = sky ? [...this.$refs.form.querySelectorAll(`select[name^="kind_"]`)] : [];
      const free = kinds.find((each) => !each.value);
      if (!free) return;
      const place = sky.getBoundingClientRect();
      const minutes = Number(sky.dataset.first) + ((event.clientX - place.left) / place.width) * Number(sky.dataset.minutes);
      free.value = sky.dataset.drop;
      const field = document.getElementById(free.id.replace("kind_", "at_"));
      field.value = clockWords((Math.round(minutes / 5) * 5) % 1440);
      this.pulled(field);
    },

    move(event) {
      if (!this.drag) return;
      const { field, kind, per, upright, x, y, from } = this.drag;
      const across = (event.clientX - x) / per;
      const down = (event.clientY - y) / per;
      if (kind === "limit") {
        field.value = Math.max(30, Math.min(100, Math.round(parseFloat(from) + (upright ? across : -down))));
      } else {
        const clock = /^(\d+):(\d+) ?([ap]?)/;
        const [, hours, minutes, half] = from.match(clock) || field.dataset.usual.match(clock);
        const begun = half ? (Number(hours) % 12) + (half === "p" ? 12 : 0) : Number(hours);
        const moved = Math.round((begun * 60 + Number(minutes) + (upright ? down : across)) / 5) * 5;
        field.value = clockWords(((moved % 1440) + 1440) % 1440);
      }
      this.pulled(field);
    },
  }));
});
