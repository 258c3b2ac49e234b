// The cutting plane: along an axis, at a place, its cut filled and outlined.
//
// The fill is found by counting, in the stencil buffer, back faces less front faces behind the
// plane: where they differ, the plane lies within a solid (Kilgard, Improving shadows and
// reflections via the stencil buffer, 1999).
import * as THREE from "three";

const AXES = ["x", "y", "z"];
const MOST_HATCH_LINES = 4000;
const MOST_TESTS = 3_000_000; // triangles looked at for the outline

function stencil(side, operation) {
  return new THREE.MeshBasicMaterial({
    side,
    colorWrite: false,
    depthWrite: false,
    depthTest: false,
    stencilWrite: true,
    stencilFunc: THREE.AlwaysStencilFunc,
    stencilFail: operation,
    stencilZFail: operation,
    stencilZPass: operation,
  });
}

export class Cut {
  constructor(stage) {
    this.stage = stage;
    this.plane = new THREE.Plane();
    this.axis = null;
    this.at = 0;
    this.flipped = false;
    this.group = new THREE.Group();
    this.back = stencil(THREE.BackSide, THREE.IncrementWrapStencilOp);
    this.front = stencil(THREE.FrontSide, THREE.DecrementWrapStencilOp);
    this.back.clippingPlanes = this.front.clippingPlanes = [this.plane];
    this.outline = new THREE.LineBasicMaterial();
    this.frame = new THREE.LineBasicMaterial({ transparent: true, opacity: 0.6 });
    this.hatching = new THREE.LineBasicMaterial({
      transparent: true,
      opacity: 0.7,
      stencilWrite: true,
      stencilRef: 0,
      stencilFunc: THREE.NotEqualStencilFunc,
    });
    this.hatchLines = 0;
    this.fills = new Map();
    stage.scene.add(this.group);
  }

  theme(colour) {
    const [ink, indigo] = [colour("--color-ink"), colour("--color-indigo")];
    this.outline.color.copy(ink);
    this.hatching.color.copy(ink);
    this.frame.color.copy(indigo);
    this.ink = ink;
  }

  get on() {
    return this.axis !== null;
  }

  // The least and greatest place along an axis.
  range(axis) {
    const box = this.stage.bounds();
    return [box.min[axis], box.max[axis]];
  }

  // `flipped`: what lies beyond the place is kept, instead of what lies before it.
  set(axis, at, flipped = this.flipped) {
    Object.assign(this, { axis, at, flipped });
    this.stage.moved();
    this.follow();
    this.stage.draw();
  }

  off() {
    this.set(null, 0);
  }

  hides(point) {
    return this.on && this.plane.distanceToPoint(point) < 0;
  }

  // Takes over what the parts are now.
  follow() {
    this.#clear();
    if (this.on) this.#aim();
    for (const model of this.stage.parts.values()) model.setClipping(this.on ? [this.plane] : null);
    if (!this.on) return;
    const box = this.stage.bounds();
    const solids = this.stage.visibleParts().filter((model) => model.part.solid && !model.ghosted);
    solids.forEach((model, at) => this.#fill(model, box, 10 + 3 * at));
    this.#outlines();
    this.#frame(box);
  }

  #aim() {
    const normal = new THREE.Vector3();
    normal[this.axis] = this.flipped ? 1 : -1;
    this.plane.set(normal, this.flipped ? -this.at : this.at);
  }

  // One part: its faces counted, then the plane drawn where the count is not even.
  #fill(model, box, order) {
    for (const mesh of model.meshes()) {
      for (const material of [this.back, this.front]) {
        const counted = new THREE.InstancedMesh(mesh.geometry, material, mesh.userData.count);
        counted.instanceMatrix = mesh.instanceMatrix;
        counted.frustumCulled = false;
        counted.renderOrder = order;
        counted.raycast = () => {};
        this.group.add(counted);
      }
    }
    const cap = new THREE.Mesh(this.#rectangle(box, 1.02), this.#material(model));
    const hatch = this.#hatch(model.part.cutHatch, box);
    cap.renderOrder = order + 1;
    if (hatch) hatch.renderOrder = order + 2;
    (hatch ?? cap).onAfterRender = (renderer) => renderer.clearStencil();
    for (const thing of [cap, hatch].filter(Boolean)) {
      thing.raycast = () => {};
      this.group.add(thing);
    }
  }

  // Lines over the plane at an angle and a spacing, through its origin, seen where the part is cut.
  #hatch([angle, spacing] = [], box) {
    if (!(spacing > 0)) return null;
    const [u, v] = AXES.filter((axis) => axis !== this.axis);
    const [along, across] = [[Math.cos(angle), Math.sin(angle)], [-Math.sin(angle), Math.cos(angle)]];
    const corners = [box.min, box.max].flatMap((a) => [box.min, box.max].map((b) => [a[u], b[v]]));
    const seen = (way) => corners.map((corner) => corner[0] * way[0] + corner[1] * way[1]);
    const [low, high] = [Math.min(...seen(across)), Math.max(...seen(across))];
    if ((high - low) / spacing > MOST_HATCH_LINES) return null;
    const ends = [Math.min(...seen(along)), Math.max(...seen(along))];
    const points = [];
    for (let k = Math.ceil(low / spacing); k <= high / spacing; k++) {
      for (const s of ends) {
        const point = new THREE.Vector3();
        point[this.axis] = this.at;
        point[u] = s * along[0] + k * spacing * across[0];
        point[v] = s * along[1] + k * spacing * across[1];
        points.push(point);
      }
    }
    this.hatchLines += points.length / 2;
    const lines = new THREE.LineSegments(new THREE.BufferGeometry().setFromPoints(points), this.hatching);
    lines.frustumCulled = false;
    return lines;
  }

  #material(model) {
    let material = this.fills.get(model.part.name);
    if (!material) {
      material = new THREE.MeshBasicMaterial({
        side: THREE.DoubleSide,
        stencilWrite: true,
        stencilRef: 0,
        stencilFunc: THREE.NotEqualStencilFunc,
        polygonOffset: true, // the hatch lies on it
        polygonOffsetFactor: 1,
        polygonOffsetUnits: 1,
      });
      this.fills.set(model.part.name, material);
    }
    material.color.set(model.part.colour).lerp(this.ink, 0.3);
    return material;
  }

  // The plane as far as the box reaches.
  #rectangle(box, share) {
    const [u, v] = AXES.filter((axis) => axis !== this.axis);
    const middle = box.getCenter(new THREE.Vector3());
    const size = box.getSize(new THREE.Vector3());
    const corners = [[-1, -1], [1, -1], [1, 1], [-1, 1]].map(([a, b]) => {
      const corner = new THREE.Vector3();
      corner[this.axis] = this.at;
      corner[u] = middle[u] + (a * size[u] * share) / 2;
      corner[v] = middle[v] + (b * size[v] * share) / 2;
      return corner;
    });
    const geometry = new THREE.BufferGeometry().setFromPoints(corners);
    geometry.setIndex([0, 1, 2, 0, 2, 3]);
    return geometry;
  }

  #frame(box) {
    const loop = new THREE.LineLoop(this.#rectangle(box, 1.12), this.frame);
    loop.geometry.setIndex(null);
    loop.raycast = () => {};
    this.group.add(loop);
    this.corner = new THREE.Vector3().fromBufferAttribute(loop.geometry.attributes.position, 2);
  }

  // Where the plane meets the triangles of all parts, as lines.
  #outlines() {
    const points = [];
    let tests = 0;
    const matrix = new THREE.Matrix4();
    const local = new THREE.Plane();
    for (const model of this.stage.visibleParts()) {
      for (const mesh of model.meshes()) {
        const box = mesh.geometry.boundingBox;
        for (let index = 0; index < mesh.count && tests < MOST_TESTS; index++) {
          mesh.getMatrixAt(index, matrix);
          if (!box.clone().applyMatrix4(matrix).intersectsPlane(this.plane)) continue;
          local.copy(this.plane).applyMatrix4(matrix.clone().invert());
          tests += mesh.geometry.index.count / 3;
          crossings(mesh.geometry, local, matrix, points);
        }
      }
    }
    this.segments = points.length / 2;
    const lines = new THREE.LineSegments(new THREE.BufferGeometry().setFromPoints(points), this.outline);
    lines.frustumCulled = false;
    lines.renderOrder = 1000;
    lines.raycast = () => {};
    this.group.add(lines);
  }

  #clear() {
    for (const child of this.group.children) {
      if (child.isInstancedMesh) child.dispose();
      else child.geometry.dispose();
    }
    this.group.clear();
    this.corner = null;
    this.segments = 0;
    this.hatchLines = 0;
  }
}

// The segments in which a plane meets the triangles of a geometry, placed by a matrix.
function crossings(geometry, plane, matrix, points) {
  const { array } = geometry.attributes.position;
  const index = geometry.index.array;
  const { normal, constant } = plane;
  const side = (i) => normal.x * array[3 * i] + normal.y * array[3 * i + 1] + normal.z * array[3 * i + 2] + constant;
  for (let t = 0; t < index.length; t += 3) {
    const corners = [index[t], index[t + 1], index[t + 2]];
    const sides = corners.map(side);
    const found = [];
    for (let k = 0; k < 3; k++) {
      const a = sides[k];
      const b = sides[(k + 1) % 3];
      if ((a < 0) === (b < 0)) continue;
      const share = a / (a - b);
      const [i, j] = [3 * corners[k], 3 * corners[(k + 1) % 3]];
      found.push(new THREE.Vector3(
        array[i] + share * (array[j] - array[i]),
        array[i + 1] + share * (array[j + 1] - array[i + 1]),
        array[i + 2] + share * (array[j + 2] - array[i + 2]),
      ).applyMatrix4(matrix));
    }
    if (found.length === 2) points.push(...found);
  }
}
