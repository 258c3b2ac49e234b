// Talking to the server.

export class Refusal extends Error {
  constructor(status, message, hint = "") {
    super(message);
    this.status = status;
    this.hint = hint;
  }
}

function csrfToken() {
  return document.cookie.match(/(?:^|; )csrftoken=([^;]+)/)?.[1] ?? "";
}

function post(address, body) {
  return send(address, JSON.stringify(body), { "Content-Type": "application/json" });
}

async function send(address, body, headers) {
  const reply = await fetch(address, {
    method: "POST",
    headers: { ...headers, "X-CSRFToken": csrfToken() },
    body,
  });
  if (reply.ok) return reply;
  const said = await reply.json().catch(() => ({}));
  const refusal = new Refusal(reply.status, said.message ?? `The server answered ${reply.status}.`, said.hint);
  refusal.needed = Boolean(said.needed);
  throw refusal;
}

export async function sendFile(address, file) {
  const form = new FormData();
  form.append("file", file);
  return (await send(address, form, {})).json();
}

export async function getJson(address) {
  const reply = await fetch(address);
  if (!reply.ok) throw new Refusal(reply.status, `The server answered ${reply.status}.`);
  return reply.json();
}

export async function postForState(address, body) {
  return (await post(address, body)).json();
}

export async function postForScene(address, body) {
  return decodeScene(await (await post(address, body)).arrayBuffer());
}

// The message of ovolo/outcome/scene.py: a header and the arrays it names.
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
  for (const part of header.parts ?? []) {
    for (const group of part.groups) {
      group.matrices = floats(group.matrices);
      group.items = integers(group.items);
    }
  }
  return header;
}

// Runs one job at a time; while one runs, only the newest of the waiting ones is kept, so the
// last value always wins and no more than one request is under way.
export class NewestWins {
  #running = false;
  #waiting = null;
  #whenIdle;

  constructor(whenIdle) {
    this.#whenIdle = whenIdle;
  }

  ask(job) {
    this.#waiting = job;
    if (!this.#running) this.#run();
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
