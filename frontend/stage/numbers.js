// The numbers of the items of arrays, as `skip` counts them, written upon the items, and where items
// that were cut out left their faces.
import * as THREE from "three";

const MOST = 400; // numbers of one part

export class Numbers {
  constructor(stage, host) {
    this.stage = stage;
    this.host = host;
    this.known = null;
    this.shown = []; // [{ label, place }]
  }

  // `known` has for each part the `numbers` of its items, and its `cuts` with number and middle; null
  // takes them all away.
  show(known) {
    this.known = known;
    this.follow();
  }

  // The items have moved, or others are shown.
  follow() {
    for (const { label } of this.shown) label.remove();
    this.shown = [];
    if (this.known) {
      for (const model of this.stage.visibleParts()) {
        this.#number(model, this.known.numbers[model.part.name]);
        this.#numberCuts(this.known.cuts[model.part.name] ?? []);
      }
    }
    this.place();
  }

  #numberCuts(cuts) {
    if (cuts.length > MOST) return;
    for (const { number, middle } of cuts) this.#write(number, new THREE.Vector3(...middle));
  }

  #write(number, place) {
    const label = Object.assign(document.createElement("span"), { className: "item-number", textContent: String(number) });
    this.host.append(label);
    this.shown.push({ label, place });
  }

  #number(model, numbers) {
    if (!numbers || numbers.length > MOST) return;
    const matrix = new THREE.Matrix4();
    for (const mesh of model.meshes()) {
      mesh.geometry.computeBoundingBox();
      const middle = mesh.geometry.boundingBox.getCenter(new THREE.Vector3());
      for (let at = 0; at < mesh.userData.count; at++) {
        mesh.getMatrixAt(at, matrix);
        this.#write(numbers[mesh.userData.items[at]] ?? "", middle.clone().applyMatrix4(matrix));
      }
    }
  }

  place() {
    for (const { label, place } of this.shown) {
      const { x, y } = this.stage.onScreen(place);
      label.style.translate = `${x}px ${y}px`;
    }
  }
}
