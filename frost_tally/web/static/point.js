"use strict";

// The charge point's part of Tonight follows what the point tells; without scripts a reload shows the same.
document.addEventListener("DOMContentLoaded", () => {
  const place = () => document.getElementById("point");
  if (!place() || !window.EventSource) return;
  const query = `car=${place().dataset.car}`;
  const events = new EventSource(`/tonight/point/events?${query}`);
  let busy = false, again = false;
  const follow = async () => {
    if (busy) { again = true; return; }
    busy = true;
    const answer = await fetch(`/tonight/point?${query}`).catch(() => null);
    const fresh = answer && answer.ok && new DOMParser().parseFromString(await answer.text(), "text/html").getElementById("point");
    if (fresh) {
      const course = document.getElementById("course"), anew = fresh.querySelector("#course");
      if (course && anew) anew.open = course.open || anew.open;
      if (fresh.innerHTML !== place().innerHTML) place().replaceChildren(...fresh.childNodes);
    }
    busy = false;
    if (again) { again = false; follow(); }
  };
  events.addEventListener("told", follow);
  window.addEventListener("pagehide", () => events.close());
});
