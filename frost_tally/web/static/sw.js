"use strict";

// Without a network: the last plan with its age, and a quick entry that is kept on this phone until it can be sent. Nothing else is kept, and
// nothing of it once nobody is signed in here any more.
const PLAN = "plan", LOG = "log", ASSETS = "assets", KEPT = "kept";
const PAGES = { "/tonight": PLAN, "/log/new": LOG };

addEventListener("install", () => skipWaiting());
addEventListener("activate", (event) => event.waitUntil(clients.claim()));

addEventListener("fetch", (event) => {
  const { request } = event;
  const url = new URL(request.url);
  if (url.origin !== location.origin) return;
  if (request.method === "GET" && url.pathname.startsWith("/static/")) event.respondWith(asset(request));
  else if (request.method === "GET" && request.mode === "navigate") event.respondWith(page(request, url));
  else if (request.method === "POST" && url.pathname === "/log/new") event.respondWith(entry(request));
});

async function asset(request) {
  const found = await caches.match(request);
  if (found) return found;
  const answer = await fetch(request);
  if (answer.ok) {
    const cache = await caches.open(ASSETS);
    const build = (address) => address.split("/").slice(0, 5).join("/");
    for (const each of await cache.keys()) if (build(each.url) !== build(request.url)) await cache.delete(each);
    await cache.put(request, answer.clone());
  }
  return answer;
}

async function page(request, url) {
  const name = PAGES[url.pathname];
  try {
    const answer = await fetch(request);
    if (url.pathname === "/sign-in") await forget(); // whoever is sent there is nobody here any more
    if (name && answer.ok && !answer.redirected && !url.searchParams.has("undo")) await keep(name, url, answer.clone());
    return answer;
  } catch (problem) {
    const found = (name && await (await caches.open(name)).match(url.pathname + url.search)) || await last(name || PLAN);
    if (!found) throw problem;
    return aged(found, url);
  }
}

async function forget() {
  for (const name of [PLAN, LOG]) await caches.delete(name);
}

async function keep(name, url, answer) {
  const headers = new Headers(answer.headers);
  headers.set("x-kept-at", new Date().toISOString());
  headers.delete("content-encoding");
  const cache = await caches.open(name);
  await cache.put(url.pathname + url.search, new Response(await answer.text(), { headers }));
  const kept = await cache.keys();
  for (const each of kept.slice(0, -4)) await cache.delete(each);
}

async function last(name) {
  const cache = await caches.open(name);
  const kept = await cache.keys();
  return kept.length ? cache.match(kept[kept.length - 1]) : undefined;
}

async function aged(found, url) {
  const at = new Date(found.headers.get("x-kept-at"));
  const minutes = Math.round((Date.now() - at) / 60000);
  const age = minutes < 90 ? `${minutes} min` : minutes < 2880 ? `${Math.round(minutes / 60)} h` : `${Math.round(minutes / 1440)} days`;
  const words = url.searchParams.has("kept")
    ? "Your entry is kept on this phone, and sent when the network is back."
    : url.pathname === "/log/new"
    ? "No network. What you note is kept on this phone, and sent when the network is back."
    : `No network. This is the plan as it was ${age} ago; what is pressed here does nothing.`;
  const text = (await found.text()).replace('<main id="main">', `<main id="main"><p class="alert alert-warning" role="status" id="offline">${words}</p>`);
  return new Response(text, { headers: { "content-type": "text/html; charset=utf-8", "content-security-policy": found.headers.get("content-security-policy") } });
}

async function entry(request) {
  const copy = request.clone();
  try {
    return await fetch(request);
  } catch {
    const fields = new URLSearchParams(await copy.text());
    fields.delete("token");
    fields.set("at", new Date().toISOString());
    const cache = await caches.open(KEPT);
    await cache.put(`/kept/${fields.get("at")}`, new Response(fields.toString()));
    return Response.redirect("/log/new?kept=1", 303);
  }
}
