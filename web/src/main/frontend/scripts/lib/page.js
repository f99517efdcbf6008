// What every page's scripts share: words for numbers, and requests with the page's token.

export function text(element, value) {
  if (element && element.textContent !== value) element.textContent = value;
}

export function bytes(count) {
  return count < 1e9 ? (count / 1e6).toFixed(0) + " MB" : (count / 1e9).toFixed(1) + " GB";
}

export function duration(seconds) {
  if (seconds < 90) return Math.max(1, Math.round(seconds)) + " s";
  const minutes = seconds / 60;
  return minutes < 90 ? Math.round(minutes) + " min" : (minutes / 60).toFixed(1) + " h";
}

/** "1 frame", "2,000 frames". */
export function counted(n, word) {
  return n.toLocaleString("en-GB") + " " + word + (n === 1 ? "" : "s");
}

export function token() {
  return document.querySelector("meta[name=csrf]").content;
}

/** Sends a form, or an object as JSON; the answer's JSON is asked for. */
export function post(url, body, headers = {}) {
  const json = body !== undefined && !(body instanceof URLSearchParams);
  return fetch(url, {
    method: "POST",
    headers: { "X-CSRF-TOKEN": token(), Accept: "application/json", ...(json ? { "Content-Type": "application/json" } : {}), ...headers },
    body: json ? JSON.stringify(body) : body,
  });
}

/** Why something was refused, in the server's own sentence; a page of it is read. */
export function sentence(answer, otherwise) {
  if (!answer.startsWith("<")) return answer || otherwise;
  const page = new DOMParser().parseFromString(answer, "text/html");
  return page.querySelector("[data-sentence], [data-problem], main p, p")?.textContent || otherwise;
}
