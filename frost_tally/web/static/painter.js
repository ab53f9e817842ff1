"use strict";

document.addEventListener("alpine:init", () => {
  // The painted week: drag, or arrows and Enter, then the server answers with the new picture. Nothing is kept here.
  window.Alpine.data("painter", () => ({
    from: null,
    pressed: false,
    cursor: { row: 0, first: 0, rows: 1, cells: 4 },
    days: ["Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday", "Public holiday"],

    init() {
      const form = this.$refs.form;
      form.addEventListener("pointerdown", (event) => { this.pressed = true; this.begin(event); });
      // a button under a finger stays until its click has come: on a touch screen that is a while after the finger left
      const released = (kind, wait) => window.addEventListener(kind, () => setTimeout(() => { this.pressed = false; }, wait));
      released("pointerup", 350);
      released("pointercancel", 0);
      released("click", 0);
      window.addEventListener("pointermove", (event) => this.drag(event));
      window.addEventListener("pointerup", (event) => this.end(event));
      window.addEventListener("pointercancel", () => { this.from = null; this.mark(null, "stroke-mark"); });
      form.addEventListener("keydown", (event) => this.key(event));
      form.addEventListener("change", (event) => { if (/^(c\d|s\d|region|name|standing|valid)/.test(event.target.name)) this.send("look"); });
      form.addEventListener("formdata", (event) => { // what is as it was shown is not sent: it stays exactly as it is
        for (const field of form.querySelectorAll("[data-usual]")) if (field.value === field.dataset.usual) event.formData.delete(field.name);
      });
      form.addEventListener("submit", (event) => {
        const button = event.submitter;
        if (!button || button.name !== "action" || /^keep/.test(button.value)) return;
        event.preventDefault();
        this.send(button.value);
      });
    },

    svg() { return [...this.$refs.form.querySelectorAll("svg.week")].find((each) => each.getBoundingClientRect().width > 0); },

    // The day of each row.
    order() { return this.svg().dataset.days.split(",").map(Number); },

    // Row and cell under a pointer.
    at(event) {
      const svg = this.svg();
      const [left, top, per, high, rows] = svg.dataset.week.split(" ").map(Number);
      const box = svg.getBoundingClientRect();
      const scale = svg.viewBox.baseVal.width / box.width;
      const inside = (value, most) => Math.max(0, Math.min(most, Math.floor(value)));
      return {
        cell: inside(((event.clientX - box.left) * scale - left) / per, 95),
        row: inside(((event.clientY - box.top) * scale - top) / high, rows - 1),
      };
    },

    begin(event) {
      if (event.button || !event.target.closest("svg.week")) return;
      this.from = this.at(event);
      this.drag(event);
    },

    drag(event) {
      if (!this.from) return;
      const to = this.at(event);
      const [a, b] = [this.from.cell, to.cell].sort((x, y) => x - y);
      const [up, down] = [this.from.row, to.row].sort((x, y) => x - y);
      this.cursor = { row: up, first: a, rows: down - up + 1, cells: b - a + 1 };
      this.mark(this.cursor, "stroke-mark");
      this.say();
    },

    end() {
      if (!this.from) return;
      this.from = null;
      this.stroke();
    },

    mark(span, kind) {
      const svg = this.svg();
      if (!svg) return;
      const [left, top, per, high] = svg.dataset.week.split(" ").map(Number);
      const rect = svg.querySelector(`.${kind}`);
      rect.setAttribute("x", span ? left + span.first * per : 0);
      rect.setAttribute("y", span ? top + span.row * high + 8 : 0);
      rect.setAttribute("width", span ? span.cells * per : 0);
      rect.setAttribute("height", span ? span.rows * high - 8 : 0);
    },

    clock(cell) { return clockWords(cell * 15); },

    say() {
      const { row, rows, first, cells } = this.cursor;
      const named = this.order().map((day) => this.days[day]);
      const days = rows > 1 ? `${named[row]} to ${named[row + rows - 1]}` : named[row];
      this.$refs.voice.textContent = `${days} ${this.clock(first)}–${this.clock(first + cells)}`;
    },

    stroke() {
      const { row, rows, first, cells } = this.cursor;
      this.set("stroke_rows", this.order().slice(row, row + rows).join(","));
      this.set("stroke_first", first);
      this.set("stroke_after", first + cells);
      this.send("stroke");
    },

    set(name, value) { this.$refs.form.querySelector(`[name="${name}"]`).value = value; },

    choose(value) {
      const radio = this.$refs.form.querySelector(`[name="colour"][value="${value}"]`);
      if (radio) radio.checked = true;
      return radio;
    },

    key(event) {
      if (!event.target.classList.contains("grid-of-week")) return;
      const span = { ...this.cursor };
      const rows = Number(this.svg().dataset.week.split(" ")[4]);
      const steps = { ArrowLeft: [0, -1], ArrowRight: [0, 1], ArrowUp: [-1, 0], ArrowDown: [1, 0] };
      if (/^[0-9]$/.test(event.key)) this.choose(event.key === "0" ? "none" : Number(event.key) - 1);
      else if (event.key === "Enter" || event.key === " ") this.stroke();
      else if (event.key === "Delete" || event.key === "Backspace") { this.choose("none"); this.stroke(); }
      else if (steps[event.key]) {
        const [down, right] = steps[event.key];
        if (event.shiftKey) {
          span.rows = Math.max(1, Math.min(rows - span.row, span.rows + down));
          span.cells = Math.max(1, Math.min(96 - span.first, span.cells + right));
        } else {
          span.row = Math.max(0, Math.min(rows - span.rows, span.row + down));
          span.first = Math.max(0, Math.min(96 - span.cells, span.first + right));
        }
        this.cursor = span;
        this.mark(span, "cursor-mark");
        this.say();
      } else return;
      event.preventDefault();
      event.stopPropagation();
    },

    // One after the other: each action builds on the answer to the one before.
    send(action) {
      const form = this.$refs.form;
      form.dataset.waiting = Number(form.dataset.waiting || 0) + 1;
      this.sent = (this.sent || Promise.resolve()).then(() => this.answer(action)).finally(() => { form.dataset.waiting -= 1; });
      return this.sent;
    },

    async answer(action) {
      const form = this.$refs.form;
      const fields = new FormData(form);
      fields.set("action", action);
      form.setAttribute("aria-busy", "true");
      const begun = performance.now();
      try {
        const answer = await fetch("/garage/tariffs/draft", { method: "POST", body: fields, headers: { "x-part": "1" } });
        if (!answer.ok) {
          this.$refs.voice.textContent = "That was not taken. Nothing is lost: keep this page open, and try again in a moment.";
          return;
        }
        const parts = new DOMParser().parseFromString(await answer.text(), "text/html");
        while (this.pressed) await new Promise((go) => setTimeout(go, 10));
        const here = document.activeElement; // now, for whoever types may have gone on to the next field meanwhile
        const grid = here && here.classList.contains("grid-of-week");
        const marked = here && here.type === "text" ? [here.selectionStart, here.selectionEnd] : null;
        for (const field of this.$refs.parts.querySelectorAll("input:not([type=radio], [type=hidden]), select")) {
          const again = parts.querySelector(`[name="${CSS.escape(field.name)}"]`);
          if (again && field.value !== fields.get(field.name)) again.value = field.value;
        }
        this.$refs.parts.replaceChildren(...parts.body.childNodes);
        if (grid) {
          form.querySelector(".grid-of-week").focus();
          this.mark(this.cursor, "cursor-mark");
        } else if (here && here.name) {
          const again = form.querySelector(`[name="${CSS.escape(here.name)}"]${here.type === "radio" || here.tagName === "BUTTON" ? `[value="${CSS.escape(here.value)}"]` : ""}`);
          if (again) again.focus();
          if (again && marked) again.setSelectionRange(...marked);
        }
        form.dataset.ms = (performance.now() - begun).toFixed(1);
      } finally {
        form.setAttribute("aria-busy", "false");
      }
    },
  }));
});
