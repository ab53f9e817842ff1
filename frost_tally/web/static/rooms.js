"use strict";

// Bootstrap's own details (the arrow of a select) follow the colour mode of the page.
const dark = matchMedia("(prefers-color-scheme: dark)");
const shade = () => { document.documentElement.dataset.bsTheme = dark.matches ? "dark" : "light"; };
dark.addEventListener("change", shade);
shade();

// What every page has: keys that open a room, c for the next car, and levers that were left unkept.
document.addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey || /^(INPUT|SELECT|TEXTAREA)$/.test(event.target.tagName)) return;
  const room = document.querySelector(`.rail [data-key="${CSS.escape(event.key)}"]`);
  if (room) room.click();
  if (event.key === "n") location.assign("/log/new");
  if (event.key === "c") {
    const cars = [...document.querySelectorAll(".cars a")];
    const here = cars.findIndex((car) => car.classList.contains("active"));
    if (cars.length > 1) cars[(here + 1) % cars.length].click();
  }
});

// The clock of this browser tells where it is at home when its language does not; only set-up asks, before anybody chose units.
const hereZone = Intl.DateTimeFormat().resolvedOptions().timeZone || "";
const told = document.cookie.includes("frost_tally_zone=");
document.cookie = `frost_tally_zone=${hereZone}; path=/; SameSite=Strict; max-age=31536000`;
if (!told && location.pathname.startsWith("/setup/") && !navigator.language.includes("-")) location.reload();

// An empty time zone is most likely the browser's; a page that takes a moment to work out is fetched at once.
document.addEventListener("DOMContentLoaded", () => {
  const zone = document.querySelector("input[name=zone]");
  const wait = document.querySelector("[data-go]");
  const once = document.querySelector("form[data-once]");
  if (once && !("looks" in document.body.dataset) && first(once.dataset.once)) once.submit();
  if (wait) ready(wait.dataset.ask).then(() => location.replace(wait.dataset.go));
  if (zone && !zone.value) zone.value = hereZone;
  const meant = location.hash && document.getElementById(decodeURIComponent(location.hash.slice(1)));
  if (meant && meant.tagName === "DETAILS") { meant.open = true; meant.scrollIntoView(); }
  remind();
  stack(document);
});

// What is done by itself is done once for each visit: whoever undoes it meant that.
function first(what) {
  try {
    if (sessionStorage.getItem(what)) return false;
    sessionStorage.setItem(what, "done");
    return true;
  } catch { return false; }
}

// A page that nobody touched for an hour speaks of another moment: it is fetched anew, unless something was typed into it.
const HOUR_MS = 3600000;
let touched = Date.now();
let typed = false;
for (const kind of ["pointerdown", "keydown"]) addEventListener(kind, () => { touched = Date.now(); });
addEventListener("input", () => { typed = true; });
const renew = () => { if ("anew" in document.body.dataset && !typed && Date.now() - touched > HOUR_MS) location.reload(); };
for (const kind of ["focus", "pageshow"]) addEventListener(kind, renew);
document.addEventListener("visibilitychange", renew);
setInterval(renew, 60000);

// Minutes of a day on this person's clock: "22:30", or "10:30 pm".
function clockWords(minutes) {
  const [hour, rest] = [Math.floor(minutes / 60), String(minutes % 60).padStart(2, "0")];
  if (document.body.dataset.hours === "24") return `${String(hour).padStart(2, "0")}:${rest}`;
  return `${(hour + 11) % 12 + 1}:${rest} ${hour % 24 < 12 ? "am" : "pm"}`;
}

// A departure's flag in a picture leads to the form that moves it, as the table beside it does; dragged along its clock, with the new time
// in the form, where it is kept: for that day alone or for all days of a departure is its owner's choice.
let dragged = null;
document.addEventListener("pointerdown", (event) => {
  const flag = event.target.closest("[data-flag]");
  if (!flag) return;
  const picture = flag.ownerSVGElement;
  dragged = { flag, x: event.clientX, scale: picture.viewBox.baseVal.width / picture.getBoundingClientRect().width, to: null };
  event.preventDefault();
});
document.addEventListener("pointermove", (event) => {
  if (!dragged) return;
  const { flag, x, scale } = dragged;
  const across = (event.clientX - x) * scale;
  if (dragged.to === null && Math.abs(across) < 4) return;
  const per = Number(flag.dataset.per);
  const minutes = Math.round((Number(flag.dataset.at) + across * per) / 5) * 5;
  dragged.to = Math.max(0, Math.min(1435, minutes));
  flag.setAttribute("transform", `translate(${(dragged.to - Number(flag.dataset.at)) / per} 0)`);
  flag.querySelector("text").textContent = clockWords(dragged.to);
});
document.addEventListener("pointerup", () => {
  if (!dragged) return;
  const [page, part] = dragged.flag.dataset.flag.split("#");
  location.assign(`${page}${dragged.to === null ? "" : `&at=${encodeURIComponent(clockWords(dragged.to))}`}#${part}`);
  dragged = null;
});
document.addEventListener("pointercancel", () => { dragged = null; });

// A table that is wider than a phone stands as a list: each row a paragraph, each number under the name of its column.
function stack(within) {
  for (const region of within.querySelectorAll(".table-responsive")) {
    const table = region.querySelector("table");
    if (!table || !table.tHead || table.classList.contains("stacked") || innerWidth > 767 || region.scrollWidth <= region.clientWidth + 1) continue;
    const names = [...table.tHead.rows[0].cells].map((cell) => cell.textContent.trim());
    for (const row of table.tBodies[0].rows) [...row.cells].forEach((cell, i) => { cell.dataset.label = names[i] || ""; });
    table.classList.add("stacked");
  }
}
document.addEventListener("toggle", (event) => stack(event.target), true);

// On paper there is nothing to unfold: what is folded opens for printing.
addEventListener("beforeprint", () => { for (const each of document.querySelectorAll("details:not([open])")) { each.open = true; each.dataset.printed = "1"; } });
addEventListener("afterprint", () => { for (const each of document.querySelectorAll("details[data-printed]")) { each.open = false; delete each.dataset.printed; } });

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
  line.className = "alert alert-light";
  line.setAttribute("role", "status");
  back.href = left.address;
  back.textContent = "Back to them";
  drop.className = "btn btn-link";
  drop.textContent = "Let them go";
  drop.addEventListener("click", () => { unkept.write(null); line.remove(); });
  line.append(`${left.title}: levers pulled and not kept (${left.words}). `, back, " ", drop);
  document.getElementById("main").prepend(line);
}
