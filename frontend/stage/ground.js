// The ground: a faint grid, and the parts' flat shadow upon it.
import * as THREE from "three";

import { roundLength } from "./round-lengths.js";

const MOST_SHADOWED = 200_000; // triangles
const USUAL = [0.22, 0.3]; // how far a shadow goes along x and y for each millimetre of height
const LOWEST = 0.035; // of the sun: below two degrees shadows have no end

export class Ground {
  constructor(stage) {
    this.stage = stage;
    this.shadow = new THREE.Group();
    this.shadowMaterial = new THREE.MeshBasicMaterial({ side: THREE.DoubleSide, depthWrite: false });
    this.gridMaterial = new THREE.LineBasicMaterial({ depthWrite: false });
    this.grid = new THREE.LineSegments(new THREE.BufferGeometry(), this.gridMaterial);
    this.grid.renderOrder = -1;
    this.shadow.renderOrder = -2;
    this.shown = true;
    this.timely = true; // whether there is time for shadows
    this.slant = USUAL; // of shadows; nothing, where there are none
    this.unit = { symbol: "mm", size: 1 };
    this.said = ""; // its spacing
    stage.scene.add(this.grid, this.shadow);
  }

  setShown(shown) {
    this.shown = shown;
    this.grid.visible = this.shadow.visible = shown;
  }

  // Shadows fall away from a direction to the sun, or as usual.
  setSun(direction) {
    if (!direction) this.slant = USUAL;
    else this.slant = direction.z > LOWEST ? [-direction.x / direction.z, -direction.y / direction.z] : null;
  }

  theme(colour) {
    this.shadowMaterial.color.copy(colour("--ground-shadow"));
    this.gridMaterial.color.copy(colour("--ground-grid"));
  }

  /** @param {Partial<import("../scene").SceneSaid>} scene */
  take(scene) {
    this.unit = scene.length_unit ?? this.unit;
  }

  // There are no shadows where there is no time for them.
  thin(timely) {
    if (this.timely === timely) return;
    this.timely = timely;
    this.follow();
  }

  // Below all parts.
  follow() {
    this.#show([...this.stage.parts.values()], this.stage.bounds());
  }

  #show(models, box) {
    this.shadow.clear();
    const triangles = models.reduce((sum, model) => sum + model.part.triangles, 0);
    if (this.timely && triangles <= MOST_SHADOWED && this.slant) {
      for (const model of models) if (model.group.visible && !model.paled && !model.ghosted) this.#cast(model, box);
    }
    this.#lay(box);
  }

  // The same shapes pressed flat along a slanting light, all in one colour.
  #cast(model, box) {
    const height = box.max.z - box.min.z;
    const level = Math.min(box.min.z, 0) - height * 0.002;
    const [east, north] = this.slant;
    const flat = new THREE.Matrix4().set(
      1, 0, east, -east * level,
      0, 1, north, -north * level,
      0, 0, 0, level,
      0, 0, 0, 1,
    );
    for (const mesh of model.meshes()) {
      const cast = new THREE.InstancedMesh(mesh.geometry, this.shadowMaterial, mesh.userData.count);
      cast.instanceMatrix = mesh.instanceMatrix;
      cast.matrixAutoUpdate = false;
      cast.matrix.copy(flat);
      cast.frustumCulled = false;
      cast.renderOrder = -2;
      cast.raycast = () => {};
      this.shadow.add(cast);
    }
  }

  // Lines at a spacing that is round in the unit of the study, some six to fifteen of them.
  #lay(box) {
    const size = Math.max(box.max.x - box.min.x, box.max.y - box.min.y, 1);
    const { mm: step, said } = roundLength(size / 8, this.unit);
    this.said = said;
    const level = Math.min(box.min.z, 0) - (box.max.z - box.min.z) * 0.002;
    const low = [box.min.x, box.min.y].map((value) => Math.floor(value / step - 0.5) * step);
    const high = [box.max.x, box.max.y].map((value) => Math.ceil(value / step + 0.5) * step);
    const points = [];
    for (let x = low[0]; x <= high[0] + step / 2; x += step) points.push(x, low[1], level, x, high[1], level);
    for (let y = low[1]; y <= high[1] + step / 2; y += step) points.push(low[0], y, level, high[0], y, level);
    this.grid.geometry.dispose();
    this.grid.geometry = new THREE.BufferGeometry();
    this.grid.geometry.setAttribute("position", new THREE.Float32BufferAttribute(points, 3));
  }
}
