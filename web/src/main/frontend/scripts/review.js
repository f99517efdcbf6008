// The walk through returns: one key each for good, milder, and the frame's own settings on its bench; the view stays.

import { onKey } from "./lib/keys.js";
import { post, sentence } from "./lib/page.js";

(function review() {
  const root = document.querySelector("[data-viewer=return]");
  if (!root) return;
  const $ = (selector) => root.querySelector(selector);
  const said = $("[data-said]");
  const say = (words) => {
    said.textContent = words;
    said.hidden = false;
  };

  function next() {
    if (root.dataset.next) location.href = "/returns/" + root.dataset.next;
    else say("That was the last return of this run.");
  }
  async function milder() {
    const answer = await post("/frames/" + root.dataset.frame + "/milder", new URLSearchParams()).catch(() => null);
    if (!answer?.ok)
      return say("■ " + (answer ? sentence(await answer.text(), "That could not be kept.") : "Rain Sieve does not answer. Try again."));
    say((await answer.json()).said);
    setTimeout(next, 900);
  }
  $("[data-walk-good]").addEventListener("click", next);
  $("[data-walk-milder]").addEventListener("click", milder);
  onKey((key) => {
    const low = key.toLowerCase();
    if (low === "y") return (next(), true);
    if (low === "n") return (milder(), true);
    if (low === "o") return ($("[data-walk-bench]").click(), true);
    return false;
  });
})();
