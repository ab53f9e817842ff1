"use strict";

// Keys that open a room, c for the next car, levers that repaint their room, and the painter of tariffs.
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

// An empty time zone is most likely the browser's; a page that takes a moment to work out is fetched at once.
document.addEventListener("DOMContentLoaded", () => {
  const zone = document.querySelector("input[name=zone]");
  const wait = document.querySelector("[data-go]");
  if (wait) ready(wait.dataset.ask).then(() => location.replace(wait.dataset.go));
  if (zone && !zone.value) zone.value = Intl.DateTimeFormat().resolvedOptions().timeZone || "";
  remind();
});

// An answer; one that takes a moment to work out (202) is asked for again until it is there.
async function ready(address) {
  for (;;) {
    const answer = await fetch(address);
    if (answer.status !== 202) return answer;
    await new Promise((go) => setTimeout(go, 150));
  }
}

// Levers that were pulled and not kept stay with this tab: the next page says so, and leads back to them.
const unkept = {
  read() { try { return JSON.parse(sessionStorage.getItem("unkept")); } catch { return null; } },
  write(what) { try { if (what) sessionStorage.setItem("unkept", JSON.stringify(what)); else sessionStorage.removeItem("unkept"); } catch { /* then the address alone keeps them */ } },
};

function remind() {
  const left = unkept.read();
  if (!left || left.address === location.pathname + location.search) return;
  const line = document.createElement("p");
  const back = document.createElement("a");
  const drop = document.createElement("button");
  line.className = "said";
  line.setAttribute("role", "status");
  back.href = left.address;
  back.textContent = "Back to them";
  drop.className = "quiet";
  drop.textContent = "Let them go";
  drop.addEventListener("click", () => { unkept.write(null); line.remove(); });
  line.append(`${left.title}: levers pulled and not kept (${left.words}). `, back, " ", drop);
  document.getElementById("main").prepend(line);
}

const phone = matchMedia("(max-width: 760px)");

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
        else { event.preventDefault(); this.ask(); }
      });
      for (const back of form.querySelectorAll(`a.quiet[href^="${this.$root.dataset.room}?"], a.quiet[href="${this.$root.dataset.room}"]`)) back.addEventListener("click", () => unkept.write(null));
      this.state();
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
        place.parentElement.classList.toggle("wrong", Boolean(said));
        const field = document.getElementById(place.id.replace(/-error$/, ""));
        if (!field) continue;
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

  // The painted week: drag, or arrows and Enter, then the server answers with the new picture. Nothing is kept here.
  window.Alpine.data("painter", () => ({
    from: null,
    pressed: false,
    cursor: { row: 0, first: 0, rows: 1, cells: 4 },
    days: ["Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday", "Public holiday"],

    init() {
      const form = this.$refs.form;
      form.addEventListener("pointerdown", (event) => { this.pressed = true; this.begin(event); });
      for (const kind of ["pointerup", "pointercancel"]) window.addEventListener(kind, () => setTimeout(() => { this.pressed = false; }));
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

    clock(cell) { return `${String(Math.floor(cell / 4)).padStart(2, "0")}:${String((cell % 4) * 15).padStart(2, "0")}`; },

    say() {
      const { row, rows, first, cells } = this.cursor;
      const days = rows > 1 ? `${this.days[row]} to ${this.days[row + rows - 1]}` : this.days[row];
      this.$refs.voice.textContent = `${days} ${this.clock(first)}–${this.clock(first + cells)}`;
    },

    stroke() {
      const { row, rows, first, cells } = this.cursor;
      this.set("stroke_rows", Array.from({ length: rows }, (_, i) => row + i).join(","));
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
      const here = document.activeElement;
      const grid = here && here.classList.contains("grid-of-week");
      form.setAttribute("aria-busy", "true");
      const begun = performance.now();
      try {
        const answer = await fetch("/garage/tariffs/draft", { method: "POST", body: fields, headers: { "x-part": "1" } });
        if (!answer.ok) {
          this.$refs.voice.textContent = "That was not taken. Nothing is lost: keep this page open, and try again in a moment.";
          return;
        }
        const parts = new DOMParser().parseFromString(await answer.text(), "text/html");
        while (this.pressed) await new Promise((go) => setTimeout(go, 10)); // a button under a finger must stay until it is let go
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
        }
        form.dataset.ms = (performance.now() - begun).toFixed(1);
      } finally {
        form.setAttribute("aria-busy", "false");
      }
    },
  }));
});
