"use strict";

// Keys that open a room, c for the next car, and the levers of Tonight.
document.addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey || /^(INPUT|SELECT|TEXTAREA)$/.test(event.target.tagName)) return;
  const room = document.querySelector(`.rail [data-key="${CSS.escape(event.key)}"]`);
  if (room) room.click();
  if (event.key === "c") {
    const cars = [...document.querySelectorAll(".cars a")];
    const here = cars.findIndex((car) => car.classList.contains("on"));
    if (cars.length > 1) cars[(here + 1) % cars.length].click();
  }
});

// An empty time zone is most likely the browser's.
document.addEventListener("DOMContentLoaded", () => {
  const zone = document.querySelector("input[name=zone]");
  if (zone && !zone.value) zone.value = Intl.DateTimeFormat().resolvedOptions().timeZone || "";
});

document.addEventListener("alpine:init", () => {
  window.Alpine.data("tonight", () => ({
    asked: "",
    busy: false,
    again: false,
    drag: null,

    init() {
      const form = this.$refs.form;
      form.addEventListener("input", (event) => this.pulled(event.target));
      form.addEventListener("change", (event) => this.pulled(event.target));
      this.$refs.live.addEventListener("pointerdown", (event) => this.grab(event));
      window.addEventListener("pointermove", (event) => this.move(event));
      window.addEventListener("pointerup", () => { this.drag = null; });
      window.addEventListener("pointercancel", () => { this.drag = null; });
    },

    // A slider and its field are one lever: each follows the other.
    pulled(control) {
      const field = control.dataset.for ? document.getElementById(control.dataset.for) : control;
      if (control.dataset.for) field.value = control.value;
      const slider = document.querySelector(`[data-for="${field.id}"]`);
      if (slider && slider !== control) slider.value = field.value;
      this.ask();
    },

    // Ask for the pictures of these levers; while one answer is on its way, only the latest wish is kept.
    async ask() {
      if (this.busy) { this.again = true; return; }
      const fields = new FormData(this.$refs.form);
      for (const name of ["token", "revision", "departure"]) fields.delete(name);
      const query = new URLSearchParams(fields).toString();
      if (query === this.asked) return;
      this.asked = query;
      this.busy = true;
      this.$refs.live.setAttribute("aria-busy", "true");
      const begun = performance.now();
      try {
        const answer = await fetch(`/tonight/preview?${query}`);
        if (answer.status === 422) this.complain((await answer.json()).errors);
        else if (answer.ok) this.show(await answer.text(), begun);
      } finally {
        this.busy = false;
        this.$refs.live.setAttribute("aria-busy", "false");
        this.$refs.live.dataset.asked = query;
        if (this.again) { this.again = false; this.ask(); }
      }
    },

    show(html, begun) {
      this.complain({});
      const open = [...this.$refs.why.querySelectorAll("details[open]")].map((each) => each.id);
      const parts = new DOMParser().parseFromString(html, "text/html");
      for (const part of parts.querySelectorAll("[data-part]")) this.$refs[part.dataset.part].replaceChildren(...part.childNodes);
      for (const id of open) document.getElementById(id).open = true;
      this.$refs.voice.textContent = document.getElementById("verdict").textContent;
      requestAnimationFrame(() => { this.$refs.live.dataset.ms = (performance.now() - begun).toFixed(1); });
    },

    complain(errors) {
      for (const place of this.$refs.form.querySelectorAll("[data-error]")) {
        const said = errors[place.dataset.error] || "";
        place.textContent = said;
        place.parentElement.classList.toggle("wrong", Boolean(said));
        const field = document.getElementById(place.id.replace(/-error$/, ""));
        if (said) field.setAttribute("aria-invalid", "true");
        else field.removeAttribute("aria-invalid");
      }
    },

    grab(event) {
      const handle = event.target.closest("[data-handle]");
      if (!handle) return;
      const scale = handle.ownerSVGElement.viewBox.baseVal.width / handle.ownerSVGElement.getBoundingClientRect().width;
      const field = document.getElementById(`l-${handle.dataset.handle}`);
      this.drag = { field, kind: handle.dataset.handle, per: Number(handle.dataset.per) / scale, x: event.clientX, y: event.clientY, from: field.value };
      event.preventDefault();
    },

    move(event) {
      if (!this.drag) return;
      const { field, kind, per, x, y, from } = this.drag;
      if (kind === "limit") {
        field.value = Math.max(30, Math.min(100, Math.round(Number(from) + (y - event.clientY) / per)));
      } else {
        const [hours, minutes] = from.split(":").map(Number);
        const moved = Math.round((hours * 60 + minutes + (event.clientX - x) / per) / 5) * 5;
        const day = ((moved % 1440) + 1440) % 1440;
        field.value = `${String(Math.floor(day / 60)).padStart(2, "0")}:${String(day % 60).padStart(2, "0")}`;
      }
      this.pulled(field);
    },
  }));
});
