// What a browser keeps between pages: how frames are looked at, and what was changed on one but not applied.

const VIEW = "rain-sieve view",
  PENDING = "rain-sieve not applied ";

function read(store, key) {
  try {
    return JSON.parse(store.getItem(key));
  } catch {
    return null;
  }
}
function write(store, key, value) {
  try {
    if (value === null) store.removeItem(key);
    else store.setItem(key, JSON.stringify(value));
  } catch {
    /* a browser that keeps nothing still works */
  }
}

/** The view of this window. */
export const view = {
  get: () => read(sessionStorage, VIEW) || {},
  set: (values) => write(sessionStorage, VIEW, { ...view.get(), ...values }),
};

/** Choices of a person on this browser. */
export const habit = {
  get: (name) => read(localStorage, "rain-sieve " + name),
  set: (name, value) => write(localStorage, "rain-sieve " + name, value),
};

/** Fields of a frame's steps that differ from what is in force. */
export const pending = {
  of: (frame) => read(localStorage, PENDING + frame),
  keep: (frame, fields) => write(localStorage, PENDING + frame, Object.keys(fields).length ? fields : null),
  has: (frame) => localStorage.getItem(PENDING + frame) !== null,
};
