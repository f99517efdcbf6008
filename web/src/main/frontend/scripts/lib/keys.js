// Keys work everywhere but in text fields. Numbers keep what numbers are typed with, sliders their arrows; letters go to the page.

const NUMBER = /^[0-9.,+-]$|^Arrow|^(Backspace|Delete|Home|End|Tab|Enter|PageUp|PageDown)$/;
const CHOICE = /^(Arrow(Up|Down)|Home|End|Tab|Enter|PageUp|PageDown| )$/;
const SLIDER = /^Arrow|^(Home|End|Tab|PageUp|PageDown)$/;

/** Whether a field keeps a key for itself. A box or a button keeps Space and Enter only where it was come to by keyboard. */
export function keeps(kind, key, byKeyboard) {
  switch (kind) {
    case "text":
      return true;
    case "number":
      return NUMBER.test(key);
    case "select":
      return CHOICE.test(key);
    case "range":
      return SLIDER.test(key);
    case "press":
      return key === "Tab" || (byKeyboard && (key === " " || key === "Enter"));
    case "radio":
      return SLIDER.test(key) || (byKeyboard && key === " ");
    default:
      return false;
  }
}

export function kindOf(element) {
  if (element.closest("dialog[open]")) return "text";
  const field = element.closest("input, select, textarea, button, summary, [contenteditable]");
  if (!field) return "";
  if (field.matches("select")) return "select";
  if (field.matches("button, summary")) return "press";
  if (!field.matches("input")) return "text";
  return { number: "number", range: "range", checkbox: "press", radio: "radio", button: "press", submit: "press" }[field.type] || "text";
}

/** The key for the page, or "" where it belongs to a field or to the browser. */
export function keyFor(event) {
  if (event.defaultPrevented || event.ctrlKey || event.metaKey || event.altKey || !event.target.closest) return "";
  const byKeyboard = event.target.matches?.(":focus-visible");
  return keeps(kindOf(event.target), event.key, byKeyboard) ? "" : event.key;
}

/** What the page does with keys; an action that answers true took the key, and nobody else gets it. */
export function onKey(act) {
  document.addEventListener("keydown", (event) => {
    const key = keyFor(event);
    if (!key || act(key, event) !== true) return;
    event.preventDefault();
    event.stopImmediatePropagation();
  });
}

// A number field without its spinner still takes e, and no letter belongs there.
globalThis.document?.addEventListener("beforeinput", (event) => {
  if (event.target.type === "number" && event.data && /[^0-9.,+-]/.test(event.data)) event.preventDefault();
});
