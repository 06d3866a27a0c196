"use strict";
// The address of a view, #name=word?key=value: a reload and a colleague's link show the same; Back comes back to the place.

function here() {
  const hash = location.hash.slice(1);
  const at = hash.indexOf("?");
  const [name, word] = (at < 0 ? hash : hash.slice(0, at)).split("=");
  let text = word || "";
  try { text = decodeURIComponent(text); } catch { /* as it is */ }
  return { name, word: text, kept: new URLSearchParams(at < 0 ? "" : hash.slice(at + 1)) };
}

function addressOf(name, word, entries) {
  const said = Object.entries(entries || {}).filter(([, value]) => value !== "" && value !== null && value !== undefined);
  const kept = new URLSearchParams(said).toString();
  return `#${name}${word ? "=" + encodeURIComponent(word) : ""}${kept ? "?" + kept : ""}`;
}

function keep(name, entries) {
  // put what a view shows into its address; this is no step of the history
  history.replaceState(history.state, "", addressOf(name, "", entries));
}

// Where the reader was when a link was followed is kept with the step of the history that is left.
history.scrollRestoration = "manual";
document.addEventListener("click", (event) => {
  const link = event.target.closest("a[href^='#']");
  if (!link) return;
  if (link.className === "skip") {
    event.preventDefault();
    document.getElementById("main").focus();
  } else if (!event.ctrlKey && !event.metaKey && !event.shiftKey) {
    history.replaceState({ top: window.scrollY, link: link.getAttribute("href") }, "");
  }
}, true);

function comeBack() {
  // after Back: the scroll and the link that was followed; whether there was such a place
  const place = history.state;
  if (!place || place.top === undefined) return false;
  window.scrollTo(0, place.top);
  const link = [...document.querySelectorAll("main a, nav a")].find((one) => one.getAttribute("href") === place.link);
  if (link) link.focus({ preventScroll: true });
  return true;
}
