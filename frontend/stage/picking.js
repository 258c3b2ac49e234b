// What lies under the pointer: an item of a part, and for measuring a corner, an edge, or a place.
import * as THREE from "three";

const CORNER = 10; // pixels within which a corner is meant
const SLIGHT = Math.cos(Math.PI / 9); // of a bend below 20°, at which an edge goes on
const ROUND = 1e-3; // by which the normals at the corners of a flat face differ at most
const EDGE = 7;
const MOST_EDGES = 400_000; // edges looked at for one pick

export class Picking {
  constructor(stage) {
    this.stage = stage;
    this.slow = false;
  }

  // The first item under a place of the window: { part, item, point, mesh, at }; null for none.
  itemAt(clientX, clientY) {
    const began = performance.now();
    const { stage } = this;
    const meshes = stage.visibleParts().filter((model) => !model.ghosted).flatMap((model) => model.meshes());
    const hits = stage.rayAt(clientX, clientY).intersectObjects(meshes, false);
    this.slow = performance.now() - began > 40;
    const hit = hits.find((one) => !stage.cut.hides(one.point));
    if (!hit) return null;
    const { part, items } = hit.object.userData;
    return { part, item: items[hit.instanceId], point: hit.point, mesh: hit.object, at: hit.instanceId, face: hit.face };
  }

  // The direction that a face which was hit faces, in space; null where it is part of a round one.
  facingOf(hit) {
    const { position, normal } = hit.mesh.geometry.attributes;
    const matrix = new THREE.Matrix4();
    hit.mesh.getMatrixAt(hit.at, matrix);
    const { a, b, c } = hit.face;
    const normals = [a, b, c].map((at) => new THREE.Vector3().fromBufferAttribute(normal, at));
    if (normals.some((one) => one.distanceTo(normals[0]) > ROUND)) return null;
    const [p, q, r] = [a, b, c].map((at) => new THREE.Vector3().fromBufferAttribute(position, at).applyMatrix4(matrix));
    const facing = q.sub(p).cross(r.sub(p)).normalize();
    return this.stage.camera.getWorldDirection(new THREE.Vector3()).dot(facing) > 0 ? facing.negate() : facing;
  }

  // For measuring: { part, item, point } or { part, item, edge }; null where nothing is near.
  thingAt(clientX, clientY) {
    const datum = this.stage.construction.near(clientX, clientY, CORNER, this.stage);
    if (datum) return { point: datum.toArray() };
    const hit = this.itemAt(clientX, clientY);
    const near = this.#nearest(clientX, clientY, hit);
    if (near) return near;
    return hit && { part: hit.part, item: hit.item, point: hit.point.toArray() };
  }

  // A corner of a part, or a datum, that is near on the screen: [x, y, z]; null where none is.
  cornerAt(clientX, clientY) {
    const datum = this.stage.construction.near(clientX, clientY, CORNER, this.stage);
    if (datum) return datum.toArray();
    return this.#nearest(clientX, clientY, this.itemAt(clientX, clientY))?.point ?? null;
  }

  // The middle of an edge.
  middleAt(clientX, clientY) {
    return this.#nearest(clientX, clientY, this.itemAt(clientX, clientY), true)?.middle ?? null;
  }

  // The nearest corner or edge (or the middle of one) on the screen, of the item under the pointer or, beside all items,
  // of any; those hidden behind the item do not count.
  #nearest(clientX, clientY, hit, middles = false) {
    const { left, top } = this.stage.host.getBoundingClientRect();
    const pointer = new THREE.Vector2(clientX - left, clientY - top);
    let best = null;
    let looked = 0;
    for (const { mesh, at } of this.#candidates(hit)) {
      looked += mesh.userData.edges.attributes.position.count / 2;
      if (looked > MOST_EDGES) break;
      best = this.#nearestOf(mesh, at, pointer, hit, best, middles);
    }
    return best?.thing ?? null;
  }

  *#candidates(hit) {
    if (hit) yield hit;
    for (const model of this.stage.visibleParts()) {
      if (model.ghosted) continue;
      for (const mesh of model.meshes()) for (let at = 0; at < mesh.count; at++) yield { mesh, at };
    }
  }

  #nearestOf(mesh, at, pointer, hit, best, middles) {
    const matrix = new THREE.Matrix4();
    mesh.getMatrixAt(at, matrix);
    const ends = mesh.userData.edges.attributes.position;
    const a = new THREE.Vector3();
    const b = new THREE.Vector3();
    const { part, items } = mesh.userData;
    const take = (rank, distance, point, thing) => {
      if (this.stage.cut.hides(point) || this.#isBehind(point, hit)) return;
      const score = rank + distance;
      if (!best || score < best.score) best = { score, thing: { part, item: items[at], ...thing } };
    };
    for (let edge = 0; edge < ends.count / 2; edge++) {
      a.fromBufferAttribute(ends, 2 * edge).applyMatrix4(matrix);
      b.fromBufferAttribute(ends, 2 * edge + 1).applyMatrix4(matrix);
      const from = this.stage.onScreen(a);
      const to = this.stage.onScreen(b);
      const share = shareAlong(pointer, from, to);
      const foot = { x: from.x + share * (to.x - from.x), y: from.y + share * (to.y - from.y) };
      const distance = Math.hypot(pointer.x - foot.x, pointer.y - foot.y);
      if (distance > CORNER) continue;
      if (distance < EDGE && !middles) take(CORNER, distance, a.clone().lerp(b, share), { edge });
      // A corner of a round edge is none: only where it is long on the screen do its ends count.
      if (Math.hypot(to.x - from.x, to.y - from.y) < 2.5 * CORNER) continue;
      if (middles) {
        if (goesOn(ends, edge)) continue; // a chord of something round, or a piece of a longer edge
        const middle = a.clone().lerp(b, 0.5);
        const away = Math.hypot(pointer.x - (from.x + to.x) / 2, pointer.y - (from.y + to.y) / 2);
        if (away < CORNER) take(0, away, middle, { middle: middle.toArray() });
        continue;
      }
      for (const [end, place] of [[a, from], [b, to]]) {
        const away = Math.hypot(pointer.x - place.x, pointer.y - place.y);
        if (away < CORNER) take(0, away, end, { point: end.toArray() });
      }
    }
    return best;
  }

  #isBehind(point, hit) {
    if (!hit) return false;
    const view = this.stage.camera.getWorldDirection(new THREE.Vector3());
    const slack = 12 * this.stage.millimetresPerPixel();
    return point.clone().sub(hit.point).dot(view) > slack;
  }
}

// Whether another edge goes on from an end of one, straight or with a slight bend.
function goesOn(ends, edge) {
  const [a, b] = [2 * edge, 2 * edge + 1].map((at) => new THREE.Vector3().fromBufferAttribute(ends, at));
  const near = 1e-5 * a.distanceTo(b);
  const way = b.clone().sub(a).normalize();
  const other = [new THREE.Vector3(), new THREE.Vector3()];
  for (let at = 0; at < ends.count / 2; at++) {
    if (at === edge) continue;
    other.forEach((end, which) => end.fromBufferAttribute(ends, 2 * at + which));
    const meets = other.some((end) => end.distanceTo(a) < near || end.distanceTo(b) < near);
    if (meets && Math.abs(other[1].sub(other[0]).normalize().dot(way)) > SLIGHT) return true;
  }
  return false;
}

function shareAlong(point, from, to) {
  const dx = to.x - from.x;
  const dy = to.y - from.y;
  const square = dx * dx + dy * dy;
  if (!square) return 0;
  return Math.min(Math.max(((point.x - from.x) * dx + (point.y - from.y) * dy) / square, 0), 1);
}
