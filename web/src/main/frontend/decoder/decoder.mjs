// Decodes raw files that come in on standard input, one after the other, without access to any file but its own.
// Request: length (4 bytes, big endian), file. Answer: length of JSON, JSON, then as many bytes of samples as it says.
import { readFileSync, writeSync } from "node:fs";
import { fileURLToPath } from "node:url";

globalThis.self = globalThis;
globalThis.WorkerGlobalScope = function () {};
const folder = fileURLToPath(new URL(".", import.meta.url));
const { default: load } = await import("./libraw.js");
const PAGE = 65536;
const MOST_MEMORY = 1 << 30;
let complaints = [];
const lib = await load({
  wasmBinary: readFileSync(folder + "libraw.wasm"),
  wasmMemory: new WebAssembly.Memory({ initial: 4096, maximum: MOST_MEMORY / PAGE, shared: true }),
  print() {},
  printErr(line) {
    complaints.push(String(line).slice(0, 200));
  },
});

async function* requests() {
  let held = [],
    size = 0;
  for await (const chunk of process.stdin) {
    held.push(chunk);
    size += chunk.length;
    if (size < 4) continue;
    if (held[0].length < 4) held = [Buffer.concat(held)];
    const wanted = held[0].readUInt32BE(0);
    if (size < wanted + 4) continue;
    const all = Buffer.concat(held);
    yield all.subarray(4, wanted + 4);
    held = size > wanted + 4 ? [all.subarray(wanted + 4)] : [];
    size -= wanted + 4;
  }
}

function send(bytes) {
  for (let at = 0; at < bytes.length;) {
    try {
      at += writeSync(1, bytes, at);
    } catch (e) {
      if (e.code !== "EAGAIN") throw e;
    }
  }
}

function reply(told, samples) {
  const json = Buffer.from(JSON.stringify({ ...told, complaints: complaints.slice(0, 5), bytes: samples ? samples.byteLength : 0 }));
  const head = Buffer.alloc(4);
  head.writeUInt32BE(json.length);
  send(head);
  send(json);
  if (samples) send(new Uint8Array(samples.buffer, samples.byteOffset, samples.byteLength));
}

for await (const file of requests()) {
  complaints = [];
  try {
    const raw = new lib.LibRaw();
    raw.open(new Uint8Array(file), {});
    const m = raw.metadata(true);
    const c = m.color_data;
    const told = {
      make: m.camera_make,
      model: m.camera_model,
      serial: m.shootinginfo.BodySerial,
      lens: m.lens.Lens || m.lens.makernotes.Lens,
      iso: m.iso_speed,
      seconds: m.shutter,
      aperture: m.aperture,
      focalLengthMm: m.focal_len,
      timestamp: m.timestamp,
      rawWidth: m.raw_width,
      rawHeight: m.raw_height,
      left: m.left_margin,
      top: m.top_margin,
      width: m.width,
      height: m.height,
      flip: m.flip,
      filters: m.filters,
      colours: m.colors,
      colourNames: m.cdesc,
      foveon: m.is_foveon !== 0,
      shots: m.raw_count,
      black: c.black,
      white: c.maximum,
      bits: c.raw_bps,
      multipliers: c.cam_mul,
      daylight: c.pre_mul,
      fromXyz: c.cam_xyz,
    };
    const image = m.raw_width * m.raw_height > 400e6 ? null : raw.rawImageData();
    const samples = image && image.data instanceof Uint16Array ? image.data : null;
    reply(told, samples);
    raw.delete?.();
  } catch (e) {
    reply({ error: String((e && e.message) || "LibRaw does not know this kind of file") }, null);
    // What an exception has left behind is not worth keeping.
    process.exit(0);
  }
}
