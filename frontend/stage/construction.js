// Construction: geometry of lines that are no parts, drawn faintly while it is wanted.
import * as THREE from "three";

import { InstancedLines } from "./parts.js";

const MOST_ENDS = 2000; // a line of more chords is snapped to by its own points only

export class Construction {
  constructor(stage) {
    this.shapes = stage.shapes;
    this.group = new THREE.Group();
    this.lines = new THREE.LineBasicMaterial({ transparent: true, opacity: 0.9, depthTest: false });
    this.faces = new THREE.MeshBasicMaterial({ transparent: true, opacity: 0.1, depthWrite: false, side: THREE.DoubleSide });
    this.dots = new THREE.PointsMaterial({ size: 7, sizeAttenuation: false, depthTest: false });
    // Datums that are only shown along with all others are faint.
    this.strong = new Set();
    this.faintLines = new THREE.LineBasicMaterial({ transparent: true, opacity: 0.35, depthTest: false });
    this.faintDots = new THREE.PointsMaterial({ size: 5, sizeAttenuation: false, depthTest: false, transparent: true, opacity: 0.5 });
    this.noFaces = new THREE.MeshBasicMaterial({ visible: false });
    this.shown = [];
    this.shapeKeys = [];
    stage.scene.add(this.group);
  }

  theme(colour) {
    for (const material of [this.lines, this.faces, this.dots, this.faintLines, this.faintDots]) material.color.copy(colour("--color-indigo"));
  }

  /** @param {Partial<import("../scene").SceneSaid>} scene */
  take({ construction = [] }) {
    for (const child of this.group.children) if (child.isInstancedMesh && child.dispose) child.dispose();
    for (const child of this.group.children) if (child.isPoints) child.geometry.dispose();
    this.group.clear();
    this.shown = construction;
    this.shapeKeys = construction.flatMap((one) => one.groups.map((group) => group.shape));
    for (const one of construction) {
      const strong = this.strong.has(one.name);
      for (const group of one.groups) this.#placed(group, strong);
      if (one.points.length) this.#points(one.points, strong);
    }
  }

  #placed(group, strong) {
    const shape = this.shapes.get(group.shape);
    if (!shape) return;
    const mesh = new THREE.InstancedMesh(shape.faces, strong ? this.faces : this.noFaces, group.items.length);
    mesh.instanceMatrix.array.set(group.matrices);
    mesh.frustumCulled = false;
    mesh.raycast = () => {};
    const lines = new InstancedLines(shape.edges, strong ? this.lines : this.faintLines, mesh.instanceMatrix);
    lines.renderOrder = 2;
    this.group.add(mesh, lines);
  }

  #points(points, strong) {
    const geometry = new THREE.BufferGeometry();
    geometry.setAttribute("position", new THREE.Float32BufferAttribute(points.flat(), 3));
    const dots = new THREE.Points(geometry, strong ? this.dots : this.faintDots);
    dots.frustumCulled = false;
    dots.renderOrder = 2;
    this.group.add(dots);
  }

  points() {
    return this.shown.flatMap((one) => one.points.map((point) => new THREE.Vector3(...point)));
  }

  // Points of the datums to snap to: points, and the ends of lines.
  datums() {
    const found = this.points();
    for (const one of this.shown) {
      for (const group of one.groups) {
        const ends = this.shapes.get(group.shape)?.edges.attributes.position;
        if (!ends || ends.count > MOST_ENDS) continue;
        for (let at = 0; at < group.items.length; at++) {
          const matrix = new THREE.Matrix4().fromArray(group.matrices, 16 * at);
          for (let end = 0; end < ends.count; end++) found.push(new THREE.Vector3().fromBufferAttribute(ends, end).applyMatrix4(matrix));
        }
      }
    }
    return found;
  }

  // The datum nearest to a place of the window, within some pixels; null for none.
  near(clientX, clientY, pixels, stage) {
    const { left, top } = stage.host.getBoundingClientRect();
    let best = null;
    let nearest = pixels;
    for (const point of this.datums()) {
      const { x, y } = stage.onScreen(point);
      const away = Math.hypot(clientX - left - x, clientY - top - y);
      if (away < nearest) [nearest, best] = [away, point];
    }
    return best;
  }

  // What is shown, read back: names with how many shapes and points.
  report() {
    return this.shown.map((one) => ({ name: one.name, shapes: one.groups.length, points: one.points.length }));
  }
}
