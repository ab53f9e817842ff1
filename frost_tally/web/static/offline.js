"use strict";

// Where the browser trusts the address: the last plan is there without a network, and what was noted without one is sent, once.
if ("serviceWorker" in navigator && isSecureContext) {
  navigator.serviceWorker.register("/sw.js");
  addEventListener("online", () => attempt());
  addEventListener("load", () => { if (!document.getElementById("offline")) attempt(); });
  hint();
}

// Once on each phone: that it can stand among its programs.
function hint() {
  const here = location.pathname === "/tonight" && matchMedia("(max-width: 600px)").matches && !matchMedia("(display-mode: standalone)").matches;
  if (!here || document.getElementById("offline") || localStorage.getItem("install-hint")) return;
  localStorage.setItem("install-hint", "shown");
  const note = say("Keep it on this phone: in the browser’s menu, “Add to home screen”. It starts here, and shows the last plan without a network. ");
  note.id = "install";
  const button = document.createElement("button");
  let offered;
  button.className = "btn btn-link";
  button.textContent = "Close";
  addEventListener("beforeinstallprompt", (event) => { event.preventDefault(); offered = event; button.textContent = "Add it"; });
  button.addEventListener("click", () => { if (offered) offered.prompt(); note.remove(); });
  note.append(button);
}

// One page sends at a time, however many are open; a browser says "online" before the network answers, so it is tried again.
async function attempt(wait_ms = 2000) {
  const failed = await navigator.locks.request("kept", send);
  if (failed && wait_ms < 120000) setTimeout(attempt, wait_ms, 2 * wait_ms);
}

// Whether the network was still away.
async function send() {
  const kept = await caches.open("kept");
  for (const each of await kept.keys()) {
    const fields = new URLSearchParams(await (await kept.match(each)).text());
    try {
      const page = await fetch(`/log/new?car=${encodeURIComponent(fields.get("car"))}`);
      const seal = new DOMParser().parseFromString(await page.text(), "text/html").querySelector("form.quick input[name=token]");
      if (!seal) return false;
      fields.set("token", seal.value);
      fields.delete("revision");
      fields.set("ago_s", Math.round((Date.now() - new Date(fields.get("at"))) / 1000));
      const answer = await fetch("/log/new/late", { method: "POST", body: fields });
      if (![204, 422].includes(answer.status)) return false;
      await kept.delete(each);
      tell(answer.status === 204 ? "What you noted without a network was sent." : (await answer.json()).detail);
    } catch { return true; }
  }
  return false;
}

function tell(words) {
  const note = say(`${words} `);
  note.id = "sent";
  const anew = document.createElement("a");
  [anew.href, anew.textContent] = [location.pathname, "What follows from it"];
  note.append(anew);
}

function say(words) {
  const note = document.createElement("p");
  note.className = "alert alert-light";
  note.setAttribute("role", "status");
  note.append(words);
  document.getElementById("main").prepend(note);
  return note;
}
