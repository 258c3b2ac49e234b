// Parts on the stage: shapes held once, drawn in all their places.
import * as THREE from "three";

import { fromAfar } from "./coarse.js";
import { Contour, Contours, isRound } from "./contour.js";
import { InPlaces } from "./in-places.js";
import { Plaster } from "./plaster.js";

// Shapes by their content key, as geometries of the renderer.
export class ShapeStore {
  #held = new Map();

  add(shapes) {
    for (const [key, shape] of Object.entries(shapes)) {
      this.#held.set(key, { ...geometries(shape), shape, round: isRound(shape), coarse: new Map() });
    }
  }

  // A shape as it looks in cells of this size; the shape itself where that would lose too much of it, or where the cells
  // are too many to be numbered.
  coarse(key, cell) {
    const held = this.#held.get(key);
    const { min, max } = held.faces.boundingBox;
    const far = ["x", "y", "z"].map((axis) => Math.max(-min[axis], max[axis]));
    if (far.some((reach, axis) => !(reach < MOST_CELLS * cell[axis]))) return held;
    const size = String(cell);
    let found = held.coarse.get(size);
    if (!found) {
      if (held.coarse.size >= SIZES) forget(held);
      const coarse = fromAfar(held.shape, cell);
      held.coarse.set(size, (found = coarse ? geometries(coarse) : held));
    }
    return found;
  }

  get(key) {
    return this.#held.get(key);
  }

  keys() {
    return [...this.#held.keys()];
  }

  // Shapes that nothing shows are kept for a while: a slide rule often comes back to them.
  keepOnly(used, spare = 300) {
    const wanted = new Set(used);
    const idle = [...this.#held.keys()].filter((key) => !wanted.has(key));
    for (const key of idle.slice(0, Math.max(idle.length - spare, 0))) {
      const held = this.#held.get(key);
      forget(held);
      drop(held);
      this.#held.delete(key);
    }
  }
}

function geometries(shape) {
  const faces = new THREE.BufferGeometry();
  faces.setAttribute("position", new THREE.BufferAttribute(shape.positions, 3));
  faces.setAttribute("normal", new THREE.BufferAttribute(shape.normals, 3));
  faces.setIndex(new THREE.BufferAttribute(shape.triangles, 1));
  faces.computeBoundingBox();
  const edges = new THREE.BufferGeometry();
  edges.setAttribute("position", new THREE.BufferAttribute(shape.edges, 3));
  return { faces, edges };
}

function drop({ faces, edges }) {
  faces.dispose();
  edges.dispose();
}

// What was made of a shape for pictures while things move.
function forget(held) {
  for (const one of held.coarse.values()) if (one !== held) drop(one);
  held.coarse.clear();
}

// Lines drawn in many places: the renderer treats anything that says it is an instanced mesh
// as one, whatever it draws.
export class InstancedLines extends THREE.LineSegments {
  constructor(geometry, material, instanceMatrix) {
    super(geometry, material);
    this.isInstancedMesh = true;
    this.instanceMatrix = instanceMatrix;
    this.instanceColor = null;
    this.morphTexture = null;
    this.count = instanceMatrix.count;
    this.frustumCulled = false;
  }

  raycast() {}
}

const MANY = 2000; // copies of a shape
const FEW = 1000; // triangles of all copies, of which all are always drawn
const MOST = 10_000; // triangles of all copies while things move, above which cells are twice as large
const SIZES = 4; // of cells, at which a shape is kept coarse
const MOST_CELLS = 1e9; // along an axis
const DEEPER = 0.45; // of the colours of thin lines on light ground, on which faces may be pale

function isDark(colour) {
  return colour.getHSL({}).l < 0.5;
}

// The same copies in another order: any first part of it is spread over all of them.
function mixed({ matrices, items, tints }) {
  const count = items.length;
  let stride = Math.floor(count * 0.618034) | 1;
  while (divisor(stride, count) > 1) stride += 2;
  const found = { matrices: new Float32Array(matrices.length), items: new Uint32Array(count), tints: tints && new Uint32Array(count) };
  for (let at = 0, from = 0; at < count; at++, from = (from + stride) % count) {
    found.matrices.set(matrices.subarray(16 * from, 16 * from + 16), 16 * at);
    found.items[at] = items[from];
    if (tints) found.tints[at] = tints[from];
  }
  return found;
}

function divisor(a, b) {
  return b ? divisor(b, a % b) : a;
}

// Whether a placement turns a shape inside out: the renderer would take its faces for back faces.
function isMirrored(matrices) {
  for (let at = 0; at < matrices.length; at += 16) {
    const [a, b, c, , d, e, f, , g, h, i] = matrices.subarray(at, at + 11);
    if (a * (e * i - f * h) - b * (d * i - f * g) + c * (d * h - e * g) < 0) return true;
  }
  return false;
}

// How much larger the greatest of all copies is than its shape, along each axis of the shape.
function greatestScale(matrices) {
  const found = [0, 0, 0];
  for (let at = 0; at < matrices.length; at += 16) {
    for (let axis = 0; axis < 3; axis++) {
      const from = at + 4 * axis;
      found[axis] = Math.max(found[axis], Math.hypot(matrices[from], matrices[from + 1], matrices[from + 2]));
    }
  }
  return found;
}

// How strongly a part is drawn: plain, by its edges, ghosted, or paled because its line fails.
const LOOKS = {
  plain: { face: 1, edge: 0.75 },
  wire: { face: 0.07, edge: 0.9 },
  ghost: { face: 0.12, edge: 0.3 },
  paled: { face: 0.35, edge: 0.25 },
};

// One part. It is updated, not made anew, while its values change: a material that is dropped
// takes its compiled program with it, and compiling takes longer than a turn may.
export class PartModel {
  constructor(name, edgeColour, markColour, withContours = true) {
    this.group = new THREE.Group();
    this.group.name = name;
    this.faceMaterial = new Plaster();
    this.edgeMaterial = new THREE.LineBasicMaterial({ transparent: true, opacity: LOOKS.plain.edge });
    this.tintedMaterial = new THREE.LineBasicMaterial({ transparent: true, opacity: LOOKS.plain.edge });
    this.contour = withContours ? new Contour() : null;
    this.setColours(edgeColour, markColour);
  }

  update(part, shapes) {
    this.part = part;
    this.shapes = shapes;
    this.shapeKeys = part.groups.map((group) => group.shape);
    if (this.paled) this.pale(false);
    this.#clear();
    this.oneSided = part.solid && !part.groups.some((group) => isMirrored(group.matrices));
    for (const group of part.groups) this.#add(shapes.get(group.shape), group);
    if (part.hatch.length) this.#hatch(part.hatch);
    this.#sides();
    this.bounds = part.bounds && new THREE.Box3(
      new THREE.Vector3(...part.bounds[0]),
      new THREE.Vector3(...part.bounds[1]),
    );
    this.#tint();
  }

  #add(shape, group) {
    if (!shape) return;
    const count = group.items.length;
    const { matrices, items, tints } = count > MANY ? mixed(group) : group;
    const mesh = new THREE.InstancedMesh(shape.faces, this.faceMaterial, count);
    mesh.instanceMatrix.array.set(matrices);
    if (tints) this.#colour(mesh, tints);
    mesh.frustumCulled = false;
    mesh.userData = { part: this.part.name, items, edges: shape.edges, count, shape: group.shape, scale: greatestScale(matrices) };
    const drawn = [this.#lines(shape, mesh)];
    if (this.contour && shape.round && this.oneSided) drawn.push(new Contours(mesh, this.contour));
    mesh.userData.with = drawn;
    this.group.add(mesh, ...drawn);
  }

  // The edges of a shape. A curve is nothing but its edges, so they have the colours of its items.
  #lines(shape, mesh) {
    const isCurve = !shape.faces.index.count;
    const tinted = isCurve && mesh.instanceColor;
    const lines = new InstancedLines(shape.edges, tinted ? this.tintedMaterial : this.edgeMaterial, mesh.instanceMatrix);
    if (tinted) lines.instanceColor = mesh.instanceColor;
    return lines;
  }

  // Each item in a colour of its own.
  #colour(mesh, tints) {
    const colour = new THREE.Color();
    tints.forEach((tint, at) => mesh.setColorAt(at, colour.setHex(tint)));
  }

  // Draws only a share of very many copies; they are mixed, so that it is thin everywhere. Contours
  // are left out where there is no time for them, and what is smaller than `pixel` (mm).
  thin(share, withContours, pixel) {
    this.withContours = withContours;
    this.#contours();
    for (const mesh of this.meshes()) {
      const all = mesh.userData.count;
      mesh.count = all > MANY ? Math.ceil(all * share) : all;
      this.#coarsen(mesh, this.faceMaterial.clippingPlanes ? 0 : pixel);
      for (const one of mesh.userData.with) one.count = mesh.count;
    }
  }

  // Draws a mesh, or in its place what is left of it in cells of this size.
  #coarsen(mesh, pixel) {
    const { shape, scale, count, with: drawn } = mesh.userData;
    const many = (mesh.geometry.index.count / 3) * count > FEW || (mesh.userData.edges.attributes.position.count / 2) * count > FEW;
    const at = (size) => this.shapes.coarse(shape, scale.map((one) => size / one));
    let coarse = pixel > 0 && many ? at(pixel) : null;
    if (coarse && (coarse.faces.index.count / 3) * count > MOST) coarse = at(2 * pixel); // it is round, and near
    mesh.visible = !coarse;
    drawn[0].geometry = coarse?.edges ?? mesh.userData.edges;
    let { picture } = mesh.userData;
    if (coarse && !picture) {
      picture = mesh.userData.picture = new InPlaces(mesh, this.faceMaterial);
      drawn.push(picture);
      this.group.add(picture);
    }
    if (!picture) return;
    picture.visible = Boolean(coarse);
    if (coarse) picture.geometry = coarse.faces;
  }

  #hatch(points) {
    const lines = new THREE.LineSegments(new THREE.BufferGeometry(), this.edgeMaterial);
    lines.geometry.setAttribute("position", new THREE.BufferAttribute(points, 3));
    lines.frustumCulled = false;
    lines.raycast = () => {};
    this.group.add(lines);
    this.hatching = lines;
  }

  meshes() {
    return this.group.children.filter((child) => child instanceof THREE.InstancedMesh);
  }

  setColours(edgeColour, markColour) {
    this.edgeColour = edgeColour;
    this.markColour = markColour;
    this.#tint();
  }

  mark(marked) {
    this.marked = marked;
    this.#tint();
  }

  // Only what is drawn plainly and whole has a contour: its far side must not be seen.
  #contours() {
    if (!this.contour) return;
    const plain = !this.paled && !this.ghosted && !this.wire && !this.faceMaterial.clippingPlanes;
    this.contour.visible = plain && this.withContours !== false;
  }

  #tint() {
    this.edgeMaterial.color.copy(this.marked ? this.markColour : this.edgeColour);
    if (this.marked) this.tintedMaterial.color.copy(this.markColour);
    else this.tintedMaterial.color.setScalar(isDark(this.edgeColour) ? DEEPER : 1);
    this.contour?.color.copy(this.edgeMaterial.color);
    if (!this.part) return;
    this.faceMaterial.color.set(this.part.legend.length ? "#ffffff" : this.part.colour);
    if (this.marked) this.faceMaterial.color.lerp(this.markColour, 0.22);
  }

  pale(paled) {
    this.paled = paled;
    this.#look();
  }

  ghost(ghosted) {
    this.ghosted = ghosted;
    this.#look();
  }

  #look() {
    const name = this.paled ? "paled" : this.ghosted ? "ghost" : this.wire ? "wire" : "plain";
    const look = LOOKS[name];
    const clear = look.face < 1;
    Object.assign(this.faceMaterial, { transparent: clear, depthWrite: !clear || Boolean(this.paled) });
    this.faceMaterial.setOpacity(look.face);
    this.#sides();
    this.edgeMaterial.opacity = this.edges ?? look.edge;
    this.tintedMaterial.opacity = look.edge;
    if (this.contour) this.contour.uniforms.opacity.value = look.edge;
    this.#contours();
  }

  // How strongly its edges are drawn, from 0 to 1; as its looks are, where nothing is said.
  setEdges(strength) {
    this.edges = strength;
    this.#look();
  }

  // By its edges, with hardly any faces.
  setWire(wire) {
    this.wire = wire;
    this.#look();
  }

  // Of a closed solid only the outer side of its faces is seen, unless it is cut or clear.
  #sides() {
    const { clippingPlanes, transparent } = this.faceMaterial;
    const side = this.oneSided && !clippingPlanes && !transparent ? THREE.FrontSide : THREE.DoubleSide;
    if (this.faceMaterial.side === side) return;
    this.faceMaterial.side = side;
    this.faceMaterial.needsUpdate = true;
  }

  setClipping(planes) {
    this.faceMaterial.clippingPlanes = planes;
    this.edgeMaterial.clippingPlanes = planes;
    this.tintedMaterial.clippingPlanes = planes;
    this.#sides();
    this.#contours();
  }

  get triangles() {
    return this.part?.triangles ?? 0;
  }

  report() {
    const meshes = this.meshes();
    return {
      name: this.part.name,
      visible: this.group.visible,
      paled: Boolean(this.paled),
      ghosted: Boolean(this.ghosted),
      marked: Boolean(this.marked),
      wire: Boolean(this.wire),
      instances: meshes.reduce((sum, mesh) => sum + mesh.userData.count, 0),
      shapes: meshes.length,
      hatched: Boolean(this.hatching),
      contoured: Boolean(this.contour?.visible) && meshes.some((mesh) => mesh.userData.with.some((one) => one instanceof Contours)),
      coarse: meshes.some((mesh) => !mesh.visible),
      coloured: meshes.some((mesh) => mesh.instanceColor),
      top: this.bounds ? this.bounds.max.z : null,
    };
  }

  #clear() {
    for (const mesh of this.meshes()) mesh.dispose();
    this.hatching?.geometry.dispose();
    this.hatching = null;
    this.group.clear();
  }

  dispose() {
    this.#clear();
    this.faceMaterial.dispose();
    this.edgeMaterial.dispose();
    this.tintedMaterial.dispose();
    this.contour?.dispose();
  }
}
