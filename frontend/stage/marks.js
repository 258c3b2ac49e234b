// Marks: parts that are pointed at, the item that was picked, and what is being measured.
import * as THREE from "three";
import { Line2 } from "three/addons/lines/Line2.js";
import { LineGeometry } from "three/addons/lines/LineGeometry.js";
import { LineMaterial } from "three/addons/lines/LineMaterial.js";

import { Plaster } from "./plaster.js";

export class Marks {
  constructor(stage) {
    this.stage = stage;
    this.names = [];
    this.picked = null;
    this.group = new THREE.Group();
    this.face = new Plaster({ polygonOffsetFactor: 0.5, polygonOffsetUnits: 0.5 });
    this.line = new THREE.LineBasicMaterial({ depthTest: false });
    this.broad = new LineMaterial({ linewidth: 3, depthTest: false }); // pixels: beside the edges of a part one is not seen
    this.dot = new THREE.PointsMaterial({ size: 8, sizeAttenuation: false, depthTest: false });
    this.measured = new THREE.Group();
    stage.scene.add(this.group, this.measured);
  }

  theme(colour) {
    for (const material of [this.face, this.line, this.broad, this.dot]) material.color.copy(colour("--color-indigo"));
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
    const add = (object) => {
      object.frustumCulled = false;
      object.renderOrder = 4;
      object.raycast = () => {};
      this.measured.add(object);
    };
    const line = (points) => add(new Line2(new LineGeometry().setPositions(points.flat()), this.broad));
    const dots = (points) => add(new THREE.Points(new THREE.BufferGeometry().setFromPoints(points.map((point) => new THREE.Vector3(...point))), this.dot));
    for (const corners of outline) {
      if (corners.length > 1) line(corners);
      else dots(corners);
    }
    if (ends) {
      line(ends);
      dots(ends);
    }
    this.stage.draw();
  }
}
