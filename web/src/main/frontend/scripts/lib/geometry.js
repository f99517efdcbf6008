// The geometry of a view and of a crop. Plain numbers in, plain numbers out; a matrix is [a, b, c, d, e, f] as a canvas takes it.

/** After a matrix, another one: first {@code inner}, then {@code outer}. */
export function multiply(outer, inner) {
  const [a, b, c, d, e, f] = outer,
    [u, v, w, x, y, z] = inner;
  return [a * u + c * v, b * u + d * v, a * w + c * x, b * w + d * x, a * y + c * z + e, b * y + d * z + f];
}

/** From a picture's own places to those of the picture set upright (TIFF's orientation, 1 to 8), both of whole pixels. */
export function upright(orientation, W, H) {
  return [
    [1, 0, 0, 1, 0, 0],
    [-1, 0, 0, 1, W, 0],
    [-1, 0, 0, -1, W, H],
    [1, 0, 0, -1, 0, H],
    [0, 1, 1, 0, 0, 0],
    [0, 1, -1, 0, H, 0],
    [0, -1, -1, 0, H, W],
    [0, -1, 1, 0, 0, W],
  ][orientation - 1];
}

/** Turns clockwise about the middle. */
export function rotation(degrees, W, H) {
  const angle = (degrees * Math.PI) / 180,
    cos = Math.cos(angle),
    sin = Math.sin(angle);
  return [cos, sin, -sin, cos, W / 2 - (cos * W) / 2 + (sin * H) / 2, H / 2 - (sin * W) / 2 - (cos * H) / 2];
}

export function apply([a, b, c, d, e, f], x, y) {
  return [a * x + c * y + e, b * x + d * y + f];
}

/** The way back; the matrix only turns and mirrors, so its columns are of length one and at right angles. */
export function unapply([a, b, c, d, e, f], x, y) {
  return [a * (x - e) + b * (y - f), c * (x - e) + d * (y - f)];
}

const LEAST = 0.02;
const within = (v, least, most) => Math.min(most, Math.max(least, v));

/** A crop moved, as far as the frame goes. All crops are shares of the frame. */
export function moved(crop, dx, dy) {
  return { ...crop, left: within(crop.left + dx, 0, 1 - crop.width), top: within(crop.top + dy, 0, 1 - crop.height) };
}

/**
 * Edges or corners drawn out by shares of the frame. With an aspect the side that is not drawn follows about its middle; a
 * corner keeps the opposite one.
 *
 * @param edges {left, right, top, bottom}, which of them are drawn
 * @param shares width by height of the aspect in shares of the frame; 0 for free
 */
export function resized(crop, edges, dx, dy, shares) {
  let l = crop.left,
    t = crop.top,
    r = l + crop.width,
    b = t + crop.height;
  if (edges.left) l = within(l + dx, 0, r - LEAST);
  if (edges.right) r = within(r + dx, l + LEAST, 1);
  if (edges.top) t = within(t + dy, 0, b - LEAST);
  if (edges.bottom) b = within(b + dy, t + LEAST, 1);
  if (!shares) return { left: l, top: t, width: r - l, height: b - t };
  const across = edges.left || edges.right,
    down = edges.top || edges.bottom;
  let w = across ? r - l : (b - t) * shares,
    h = across ? (r - l) / shares : b - t;
  if (across && down) {
    // The larger of both wishes, from the corner that stays.
    w = Math.max(r - l, (b - t) * shares);
    const room = Math.min(edges.left ? r : 1 - l, (edges.top ? b : 1 - t) * shares);
    w = Math.min(w, room);
    h = w / shares;
    return { left: edges.left ? r - w : l, top: edges.top ? b - h : t, width: w, height: h };
  }
  const cx = (crop.left * 2 + crop.width) / 2,
    cy = (crop.top * 2 + crop.height) / 2;
  const room = across
    ? Math.min(edges.left ? r : 1 - l, 2 * Math.min(cy, 1 - cy) * shares)
    : Math.min((edges.top ? b : 1 - t) * shares, 2 * Math.min(cx, 1 - cx));
  w = Math.min(w, room);
  h = w / shares;
  return across
    ? { left: edges.left ? r - w : l, top: cy - h / 2, width: w, height: h }
    : { left: cx - w / 2, top: edges.top ? b - h : t, width: w, height: h };
}

/** The largest crop of an aspect about the middle of this one that does not leave it. */
export function withAspect(crop, shares) {
  if (!shares) return crop;
  const w = Math.min(crop.width, crop.height * shares),
    h = w / shares;
  return { left: crop.left + (crop.width - w) / 2, top: crop.top + (crop.height - h) / 2, width: w, height: h };
}

/** The crop made just so much smaller about its middle that, with the picture turned under it, it holds nothing from outside. */
export function fitted(crop, degrees, W, H) {
  if (!degrees) return crop;
  const angle = (degrees * Math.PI) / 180,
    cos = Math.cos(angle),
    sin = Math.sin(angle);
  const cx = (crop.left + crop.width / 2 - 0.5) * W,
    cy = (crop.top + crop.height / 2 - 0.5) * H;
  const holds = (factor) =>
    [-0.5, 0.5].every((i) =>
      [-0.5, 0.5].every((j) => {
        const x = cx + factor * crop.width * W * i,
          y = cy + factor * crop.height * H * j;
        return Math.abs(x * cos + y * sin) <= W / 2 + 1e-6 && Math.abs(-x * sin + y * cos) <= H / 2 + 1e-6;
      }),
    );
  if (holds(1)) return crop;
  let factor = 0;
  for (let half = 0.5; half > 1e-6; half /= 2) if (holds(factor + half)) factor += half;
  const w = crop.width * factor,
    h = crop.height * factor;
  return { left: crop.left + (crop.width - w) / 2, top: crop.top + (crop.height - h) / 2, width: w, height: h };
}

/** By how much a picture must be turned clockwise so that a line drawn along a horizon or a mast is level or upright. */
export function levelling(dx, dy) {
  const degrees = (Math.atan2(dy, dx) * 180) / Math.PI;
  return -(degrees - 90 * Math.round(degrees / 90));
}

/** Where a place of the whole frame (in shares) lies in the picture of a carried-out crop, in shares of that. */
export function placed(x, y, crop, degrees, W, H) {
  const [tx, ty] = apply(rotation(degrees, W, H), x * W, y * H);
  return [(tx / W - crop.left) / crop.width, (ty / H - crop.top) / crop.height];
}
