// Dimension lines: thin, with a tick at either end, and name over value.
import * as THREE from "three";

export class Dims {
  constructor(scene, labels) {
    this.labels = labels;
    this.group = new THREE.Group();
    this.material = new THREE.LineBasicMaterial();
    this.wrongMaterial = new THREE.LineBasicMaterial();
    this.shown = [];
    scene.add(this.group);
  }

  setColours(ink, madder) {
    this.material.color.copy(ink);
    this.wrongMaterial.color.copy(madder);
  }

  show(dims) {
    for (const { label } of this.shown) label.remove();
    for (const line of this.group.children) line.geometry.dispose();
    this.group.clear();
    this.shown = dims.map((dim) => this.#one(dim));
  }

  #one(dim) {
    const geometry = new THREE.BufferGeometry();
    geometry.setAttribute("position", new THREE.Float32BufferAttribute(dim.segments, 3));
    this.group.add(new THREE.LineSegments(geometry, dim.wrong ? this.wrongMaterial : this.material));
    const points = [];
    for (let at = 0; at < dim.segments.length; at += 3) points.push(new THREE.Vector3(...dim.segments.slice(at, at + 3)));
    return { points, middle: new THREE.Vector3(...dim.place), label: this.#label(dim) };
  }

  #label(dim) {
    const label = document.createElement("div");
    label.className = dim.wrong ? "dim-said wrong" : "dim-said";
    const value = document.createElement("b");
    value.textContent = dim.wrong ? `✕ ${dim.shown}` : dim.shown;
    label.append(dim.said, document.createElement("br"), value);
    this.labels.append(label);
    return label;
  }

  // How strongly they are drawn, from 0 (not at all) to 1.
  setStrength(strength) {
    this.group.visible = strength > 0;
    for (const material of [this.material, this.wrongMaterial]) {
      Object.assign(material, { transparent: strength < 1, opacity: strength, needsUpdate: true });
    }
  }

  points() {
    return this.shown.flatMap((dim) => dim.points);
  }

  place(camera, host) {
    for (const { middle, label } of this.shown) {
      const at = middle.clone().project(camera);
      label.style.left = `${((at.x + 1) / 2) * host.clientWidth}px`;
      label.style.top = `${((1 - at.y) / 2) * host.clientHeight}px`;
    }
  }
}
