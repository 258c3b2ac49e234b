// Construction: geometry of lines that are no parts, drawn faintly while it is wanted.
import * as THREE from "three";

import { InstancedLines } from "./parts.js";

export class Construction {
  constructor(scene, shapes) {
    this.shapes = shapes;
    this.group = new THREE.Group();
    this.lines = new THREE.LineBasicMaterial({ transparent: true, opacity: 0.9, depthTest: false });
    this.faces = new THREE.MeshBasicMaterial({ transparent: true, opacity: 0.1, depthWrite: false, side: THREE.DoubleSide });
    this.dots = new THREE.PointsMaterial({ size: 7, sizeAttenuation: false, depthTest: false });
    this.shown = [];
    this.shapeKeys = [];
    scene.add(this.group);
  }

  setColour(colour) {
    for (const material of [this.lines, this.faces, this.dots]) material.color.copy(colour);
  }

  show(construction) {
    for (const child of this.group.children) if (child.isInstancedMesh && child.dispose) child.dispose();
    for (const child of this.group.children) if (child.isPoints) child.geometry.dispose();
    this.group.clear();
    this.shown = construction;
    this.shapeKeys = construction.flatMap((one) => one.groups.map((group) => group.shape));
    for (const one of construction) {
      for (const group of one.groups) this.#placed(group);
      if (one.points.length) this.#points(one.points);
    }
  }

  #placed(group) {
    const shape = this.shapes.get(group.shape);
    if (!shape) return;
    const mesh = new THREE.InstancedMesh(shape.faces, this.faces, group.items.length);
    mesh.instanceMatrix.array.set(group.matrices);
    mesh.frustumCulled = false;
    mesh.raycast = () => {};
    const lines = new InstancedLines(shape.edges, this.lines, mesh.instanceMatrix);
    lines.renderOrder = 2;
    this.group.add(mesh, lines);
  }

  #points(points) {
    const geometry = new THREE.BufferGeometry();
    geometry.setAttribute("position", new THREE.Float32BufferAttribute(points.flat(), 3));
    const dots = new THREE.Points(geometry, this.dots);
    dots.frustumCulled = false;
    dots.renderOrder = 2;
    this.group.add(dots);
  }

  points() {
    return this.shown.flatMap((one) => one.points.map((point) => new THREE.Vector3(...point)));
  }

  // What is shown, read back: names with how many shapes and points.
  report() {
    return this.shown.map((one) => ({ name: one.name, shapes: one.groups.length, points: one.points.length }));
  }
}
