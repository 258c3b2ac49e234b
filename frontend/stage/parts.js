// Parts on the stage: shapes held once, drawn in all their places.
import * as THREE from "three";

// Shapes by their content key, as geometries of the renderer.
export class ShapeStore {
  #held = new Map();

  add(shapes) {
    for (const [key, shape] of Object.entries(shapes)) {
      const faces = new THREE.BufferGeometry();
      faces.setAttribute("position", new THREE.BufferAttribute(shape.positions, 3));
      faces.setAttribute("normal", new THREE.BufferAttribute(shape.normals, 3));
      faces.setIndex(new THREE.BufferAttribute(shape.triangles, 1));
      faces.computeBoundingBox();
      const edges = new THREE.BufferGeometry();
      edges.setAttribute("position", new THREE.BufferAttribute(shape.edges, 3));
      this.#held.set(key, { faces, edges });
    }
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
      const { faces, edges } = this.#held.get(key);
      faces.dispose();
      edges.dispose();
      this.#held.delete(key);
    }
  }
}

// Lines drawn in many places: the renderer treats anything that says it is an instanced mesh
// as one, whatever it draws.
class InstancedLines extends THREE.LineSegments {
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

// One part. It is updated, not made anew, while its values change: a material that is dropped
// takes its compiled program with it, and compiling takes longer than a turn may.
export class PartModel {
  constructor(name, edgeColour) {
    this.group = new THREE.Group();
    this.group.name = name;
    this.faceMaterial = new THREE.MeshLambertMaterial({
      side: THREE.DoubleSide,
      polygonOffset: true,
      polygonOffsetFactor: 1,
      polygonOffsetUnits: 1,
    });
    this.edgeMaterial = new THREE.LineBasicMaterial({ color: edgeColour, transparent: true, opacity: 0.75 });
  }

  update(part, shapes) {
    this.part = part;
    this.shapeKeys = part.groups.map((group) => group.shape);
    if (this.paled) this.pale(false);
    this.faceMaterial.color.set(part.colour);
    this.#clear();
    for (const group of part.groups) this.#add(shapes.get(group.shape), group);
    this.bounds = part.bounds && new THREE.Box3(
      new THREE.Vector3(...part.bounds[0]),
      new THREE.Vector3(...part.bounds[1]),
    );
  }

  #add(shape, group) {
    if (!shape) return;
    const count = group.items.length;
    const mesh = new THREE.InstancedMesh(shape.faces, this.faceMaterial, count);
    mesh.instanceMatrix.array.set(group.matrices);
    mesh.frustumCulled = false;
    mesh.userData = { part: this.part.name, items: group.items };
    this.group.add(mesh, new InstancedLines(shape.edges, this.edgeMaterial, mesh.instanceMatrix));
  }

  meshes() {
    return this.group.children.filter((child) => child instanceof THREE.InstancedMesh);
  }

  setEdgeColour(colour) {
    this.edgeMaterial.color.copy(colour);
  }

  pale(paled) {
    this.paled = paled;
    this.faceMaterial.transparent = paled;
    this.faceMaterial.opacity = paled ? 0.35 : 1;
    this.edgeMaterial.opacity = paled ? 0.25 : 0.75;
    this.faceMaterial.needsUpdate = true;
  }

  report() {
    const meshes = this.meshes();
    return {
      name: this.part.name,
      visible: this.group.visible,
      paled: Boolean(this.paled),
      instances: meshes.reduce((sum, mesh) => sum + mesh.count, 0),
      shapes: meshes.length,
      top: this.bounds ? this.bounds.max.z : null,
    };
  }

  #clear() {
    for (const mesh of this.meshes()) mesh.dispose();
    this.group.clear();
  }

  dispose() {
    this.#clear();
    this.faceMaterial.dispose();
    this.edgeMaterial.dispose();
  }
}
