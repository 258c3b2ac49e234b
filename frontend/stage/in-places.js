// Faces drawn in all the places of a mesh, in the colours of its copies. They are there to be seen: what is picked is the
// mesh. (The renderer treats anything that says it is an instanced mesh as one.)
import * as THREE from "three";

export class InPlaces extends THREE.Mesh {
  constructor(mesh, material) {
    super(mesh.geometry, material);
    this.isInstancedMesh = true;
    this.instanceMatrix = mesh.instanceMatrix;
    this.instanceColor = mesh.instanceColor;
    this.morphTexture = null;
    this.count = mesh.count;
    this.frustumCulled = false;
  }

  raycast() {}
}
