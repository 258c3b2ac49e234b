// Talking to the server.

// The server understood and says no.
export class Refusal extends Error {
  constructor(status, said) {
    super(said.message ?? `The server answered ${status}.`);
    this.status = status;
    this.hint = said.hint ?? "";
    this.said = said;
  }
}

// Whether something is refused because the study is not what this page shows of it any more.
export function hasChanged(error) {
  return error instanceof Refusal && error.status === 412;
}

// The server cannot be reached.
export class NoServer extends Error {}

function csrfToken() {
  return document.cookie.match(/(?:^|; )csrftoken=([^;]+)/)?.[1] ?? "";
}

async function answer(address, options) {
  let reply;
  try {
    reply = await fetch(address, options);
  } catch {
    throw new NoServer("The server does not answer.");
  }
  if (reply.ok && !reply.redirected) return reply;
  if (reply.redirected) throw new Refusal(401, { message: "You are signed out.", hint: "reload the page to sign in" });
  if (reply.status === 404) throw new Refusal(404, { message: "There is nothing here any more.", hint: "it was removed, or you may not look at it any longer" });
  if ([502, 503, 504].includes(reply.status)) throw new NoServer("The server does not answer.");
  throw new Refusal(reply.status, await reply.json().catch(() => ({})));
}

// What this page goes on from, as the server named it with the answer that it shows: where the study has changed since,
// what is asked for on the strength of that is refused.
let seen = "";

async function send(address, body, headers = {}, options = {}) {
  const known = seen ? { "X-As-Seen": seen } : {};
  const reply = await answer(address, { ...options, method: "POST", headers: { ...headers, ...known, "X-CSRFToken": csrfToken() }, body });
  seen = reply.headers.get("X-As-Seen") ?? seen;
  return reply;
}

function post(address, body, headers = {}, options = {}) {
  return send(address, JSON.stringify(body), { ...headers, "Content-Type": "application/json" }, options);
}

// Work that may take long, by its name: when it began, and for how many seconds it may go on.
export const jobs = new Map();

// This window among all that are open, so that a newer turn here replaces an older one.
export const THIS_WINDOW = Math.random().toString(36).slice(2);
let count = 0;

const ASKED = 600; // milliseconds between two looks at how far work is

/** @param {number} seconds  @param {(headers: Record<string, string>) => Promise<any>} work  @param {((share: number) => void) | null} [told] takes what share of it is done */
async function asJob(seconds, work, told) {
  const job = `${THIS_WINDOW}-${(count += 1)}`;
  jobs.set(job, { began: performance.now(), seconds });
  const asking = told && setInterval(() => tellShare(job, told), ASKED);
  try {
    return await work({ "X-Job": job });
  } finally {
    jobs.delete(job);
    if (asking) clearInterval(asking);
  }
}

async function tellShare(job, told) {
  const reply = await post("/job-share", {}, { "X-Job": job }).catch(() => null);
  const { share } = (await reply?.json()) ?? {};
  if (share && jobs.has(job)) told(share);
}

// Work that nobody waits for: it is not told of, and given up by what it gives as `stop`; there is no answer then.
export function quietly(address, body) {
  const job = `${THIS_WINDOW}-quiet-${(count += 1)}`;
  const wanted = new AbortController();
  const stop = () => {
    wanted.abort();
    return stopJob(job).catch(() => null);
  };
  return { answer: post(address, body, { "X-Job": job }, { signal: wanted.signal }).then((reply) => reply.json()), stop };
}

export function stopJob(job) {
  return post("/stop-job", {}, { "X-Job": job });
}

export async function sendFile(address, file) {
  const form = new FormData();
  form.append("file", file);
  return (await send(address, form)).json();
}

export function sendPicture(address, png) {
  return send(address, png, { "Content-Type": "image/png" });
}

// A file; where it is refused, the answer says why in plain words.
export async function fetchFile(address) {
  let reply;
  try {
    reply = await asJob(120, (headers) => fetch(address, { headers }));
  } catch {
    throw new NoServer("The server does not answer.");
  }
  if (!reply.ok) throw new Refusal(reply.status, { message: await reply.text() });
  return reply.blob();
}

export async function getJson(address) {
  return (await answer(address)).json();
}

export async function postForJson(address, body, options = {}) {
  return (await post(address, body, {}, options)).json();
}

// For work that may take long: it has a name, by which it is told of and stopped.
/** @param {string} address  @param {any} body  @param {number} [seconds]  @param {((share: number) => void) | null} [told] */
export async function postLong(address, body, seconds = 60, told = null) {
  return (await asJob(seconds, (headers) => post(address, body, headers), told)).json();
}

export async function postForFile(address, body, seconds = 120) {
  return (await asJob(seconds, (headers) => post(address, body, headers))).blob();
}

/** @returns {Promise<import("./scene").SceneSaid & { stopped?: string }>} */
export async function postForScene(address, body) {
  const reply = await asJob(9, (headers) => post(address, body, headers));
  return decodeScene(await reply.arrayBuffer());
}

// The message of ovolo/outcome/scene.py: a header and the arrays it names.
/** @returns {import("./scene").SceneSaid} */
export function decodeScene(buffer) {
  const view = new DataView(buffer);
  const size = view.getUint32(4, true);
  const header = JSON.parse(new TextDecoder().decode(new Uint8Array(buffer, 8, size)));
  const start = 8 + size;
  const floats = ([offset, count]) => new Float32Array(buffer, start + offset, count);
  const integers = ([offset, count]) => new Uint32Array(buffer, start + offset, count);
  for (const shape of Object.values(header.shapes ?? {})) {
    shape.positions = floats(shape.positions);
    shape.normals = floats(shape.normals);
    shape.triangles = integers(shape.triangles);
    shape.edges = floats(shape.edges);
  }
  const parts = [...(header.parts ?? []), ...(header.loose ?? [])];
  for (const part of parts) part.hatch = floats(part.hatch);
  for (const { groups } of [...parts, ...(header.construction ?? [])]) {
    for (const group of groups) {
      group.matrices = floats(group.matrices);
      group.items = integers(group.items);
      group.tints = group.tints && integers(group.tints);
    }
  }
  return header;
}

// Runs one job at a time; while one runs, only the newest of the waiting ones is kept, so the
// last value always wins and no more than one request is under way.
export class NewestWins {
  #running = false;
  #waiting = null;
  #work = Promise.resolve();
  #whenIdle;

  constructor(whenIdle) {
    this.#whenIdle = whenIdle;
  }

  ask(job) {
    this.#waiting = job;
    if (!this.#running) this.#work = this.#run();
  }

  // Resolved when nothing is under way any more.
  get done() {
    return this.#work;
  }

  get busy() {
    return this.#running;
  }

  async #run() {
    this.#running = true;
    try {
      while (this.#waiting) {
        const job = this.#waiting;
        this.#waiting = null;
        await job();
      }
    } finally {
      this.#running = false;
      this.#whenIdle();
    }
  }
}
