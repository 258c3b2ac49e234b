// Pictures that lie under the drawing, in plan.
import * as THREE from "three";

export class Underlays {
  constructor(stage) {
    this.stage = stage;
    this.shown = new Map();
    this.loader = new THREE.TextureLoader();
  }

  /** @param {Partial<import("../scene").SceneSaid>} scene  @param {string} address */
  take({ underlays = [] }, address) {
    const wanted = new Map(underlays.map((one) => [`${one.name} ${one.digest}`, one]));
    for (const [key, mesh] of this.shown) if (!wanted.has(key)) this.#drop(key, mesh);
    for (const [key, one] of wanted) {
      const mesh = this.shown.get(key) ?? this.#make(key, `${address}files/${encodeURIComponent(one.file)}?look&${one.digest}`);
      mesh.geometry.attributes.position.array.set(one.corners.flat());
      mesh.geometry.attributes.position.needsUpdate = true;
      mesh.material.opacity = one.strength;
      mesh.userData.corners = one.corners;
    }
  }

  #make(key, address) {
    const geometry = new THREE.BufferGeometry();
    geometry.setAttribute("position", new THREE.Float32BufferAttribute(new Float32Array(12), 3));
    geometry.setAttribute("uv", new THREE.Float32BufferAttribute([0, 0, 1, 0, 1, 1, 0, 1], 2));
    geometry.setIndex([0, 1, 2, 0, 2, 3]);
    const texture = this.loader.load(address, () => this.stage.draw());
    texture.colorSpace = THREE.SRGBColorSpace;
    const material = new THREE.MeshBasicMaterial({ map: texture, transparent: true, depthWrite: false, side: THREE.DoubleSide });
    const mesh = new THREE.Mesh(geometry, material);
    mesh.frustumCulled = false;
    mesh.renderOrder = -3;
    mesh.raycast = () => {};
    this.stage.scene.add(mesh);
    this.shown.set(key, mesh);
    return mesh;
  }

  #drop(key, mesh) {
    this.stage.scene.remove(mesh);
    mesh.material.map.dispose();
    mesh.material.dispose();
    mesh.geometry.dispose();
    this.shown.delete(key);
  }

  points() {
    return [...this.shown.values()].flatMap((mesh) => mesh.userData.corners.map((corner) => new THREE.Vector3(...corner)));
  }

  report() {
    return [...this.shown.entries()].map(([key, mesh]) => ({ key, corners: mesh.userData.corners, strength: mesh.material.opacity, loaded: Boolean(mesh.material.map.image) }));
  }
}
