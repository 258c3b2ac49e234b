// Marks: parts that are pointed at, the item that was picked, and what is being measured.
import * as THREE from "three";

import { Plaster } from "./plaster.js";

export class Marks {
  constructor(stage) {
    this.stage = stage;
    this.names = [];
    this.picked = null;
    this.group = new THREE.Group();
    this.face = new Plaster({ polygonOffsetFactor: 0.5, polygonOffsetUnits: 0.5 });
    this.line = new THREE.LineBasicMaterial({ depthTest: false });
    this.dot = new THREE.PointsMaterial({ size: 8, sizeAttenuation: false, depthTest: false });
    this.measured = new THREE.Group();
    stage.scene.add(this.group, this.measured);
  }

  theme(colour) {
    for (const material of [this.face, this.line, this.dot]) material.color.copy(colour("--color-indigo"));
    this.face.color.lerp(new THREE.Color(1, 1, 1), 0.45);
  }

  parts(names) {
    this.names = names;
    this.refresh();
  }

  item(part, item) {
    this.picked = part === null ? null : { part, item };
    this.refresh();
  }

  take() {
    this.refresh();
  }

  // Marks again what is marked, after the parts were shown anew.
  refresh() {
    for (const [name, model] of this.stage.parts) {
      if (Boolean(model.marked) !== this.names.includes(name)) model.mark(this.names.includes(name));
    }
    for (const child of this.group.children) if (child.dispose) child.dispose();
    this.group.clear();
    if (!this.picked) return;
    const model = this.stage.parts.get(this.picked.part);
    for (const mesh of model?.meshes() ?? []) {
      const at = mesh.userData.items.indexOf(this.picked.item);
      if (at < 0) continue;
      const matrix = new THREE.Matrix4();
      mesh.getMatrixAt(at, matrix);
      const face = new THREE.Mesh(mesh.geometry, this.face);
      const edges = new THREE.LineSegments(mesh.userData.edges, this.line);
      for (const one of [face, edges]) {
        one.matrixAutoUpdate = false;
        one.matrix.copy(matrix);
        one.frustumCulled = false;
        one.raycast = () => {};
        this.group.add(one);
      }
      edges.renderOrder = 3;
    }
  }

  // Points and edges that are measured, and the line between two of them.
  measure(outline, ends) {
    for (const child of this.measured.children) child.geometry.dispose();
    this.measured.clear();
    const draw = (points, Kind, material) => {
      const object = new Kind(new THREE.BufferGeometry().setFromPoints(points.map((point) => new THREE.Vector3(...point))), material);
      object.frustumCulled = false;
      object.renderOrder = 4;
      object.raycast = () => {};
      this.measured.add(object);
    };
    for (const corners of outline) {
      if (corners.length > 1) draw(corners, THREE.Line, this.line);
      else draw(corners, THREE.Points, this.dot);
    }
    if (ends) {
      draw(ends, THREE.Line, this.line);
      draw(ends, THREE.Points, this.dot);
    }
    this.stage.draw();
  }
}
