// Walking around by keys, where the picture has the focus: arrows turn it, with Shift they move it,
// + and - come nearer and go away.
import * as THREE from "three";

const TURN = Math.PI / 12;
const SHARE = 0.1; // of the picture, for one move
const NEARER = 1.25;
const WAYS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] };

export function walkByKeys(stage) {
  const canvas = stage.renderer.domElement;
  canvas.tabIndex = 0;
  canvas.setAttribute("role", "img");
  canvas.setAttribute("aria-label", "Picture");
  canvas.addEventListener("keydown", (event) => {
    if (event.altKey || event.ctrlKey || event.metaKey) return;
    const way = WAYS[event.key];
    if (way) (event.shiftKey ? slide : turn)(stage, way);
    else if (event.key === "+" || event.key === "=") zoom(stage, NEARER);
    else if (event.key === "-") zoom(stage, 1 / NEARER);
    else return;
    event.preventDefault();
    stage.touched = true;
    stage.controls.update();
    stage.draw();
  });
}

// About the upright axis, and up or down as far as straight above or below; in twelfths of half a turn.
export function turn({ camera, controls }, [across, up]) {
  const from = camera.position.clone().sub(controls.target);
  const place = new THREE.Spherical().setFromVector3(new THREE.Vector3(from.x, from.z, -from.y));
  place.theta += across * TURN;
  place.phi = Math.min(Math.max(place.phi - up * TURN, 1e-3), Math.PI - 1e-3);
  const at = new THREE.Vector3().setFromSpherical(place);
  camera.up.set(0, 0, 1);
  camera.position.copy(controls.target).add(new THREE.Vector3(at.x, -at.z, at.y));
  camera.lookAt(controls.target);
}

function slide({ camera, controls }, [across, up]) {
  const high = ((camera.top - camera.bottom) / camera.zoom) * SHARE;
  const right = new THREE.Vector3().setFromMatrixColumn(camera.matrixWorld, 0).multiplyScalar(across * high);
  const shift = right.add(new THREE.Vector3().setFromMatrixColumn(camera.matrixWorld, 1).multiplyScalar(up * high));
  camera.position.add(shift);
  controls.target.add(shift);
}

function zoom({ camera }, factor) {
  camera.zoom *= factor;
  camera.updateProjectionMatrix();
}
