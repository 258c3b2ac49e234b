// The contour of what is round: its far side drawn a little larger in ink, so that a line of it shows
// all round. Edges that are sharp are lines of their own.
import * as THREE from "three";

import { InPlaces } from "./in-places.js";
import { TURNED_NORMAL } from "./plaster.js";

const WIDTH = 1.25; // device pixels

const VERTEX = /* glsl */ `
#include <common>
uniform vec2 viewport;
void main() {
  ${TURNED_NORMAL}
  #include <project_vertex>
  vec2 outward = (projectionMatrix * viewMatrix * vec4(mat3(modelMatrix) * turned, 0.0)).xy * viewport;
  gl_Position.xy += outward / max(length(outward), 1e-9) * ${WIDTH.toFixed(2)} * 2.0 / viewport * gl_Position.w;
}`;

const FRAGMENT = /* glsl */ `
uniform vec3 ink;
uniform float opacity;
void main() {
  gl_FragColor = vec4(ink, opacity);
  #include <colorspace_fragment>
}`;

export class Contour extends THREE.ShaderMaterial {
  constructor() {
    super({
      vertexShader: VERTEX,
      fragmentShader: FRAGMENT,
      uniforms: { ink: { value: new THREE.Color() }, opacity: { value: 1 }, viewport: { value: new THREE.Vector2(1, 1) } },
      side: THREE.BackSide,
      transparent: true,
    });
  }

  get color() {
    return this.uniforms.ink.value;
  }

  // Told by what draws it, for the width of the line is in pixels.
  fit(renderer) {
    renderer.getDrawingBufferSize(this.uniforms.viewport.value);
  }
}

export class Contours extends InPlaces {
  constructor(mesh, contour) {
    super(mesh, contour);
    this.instanceColor = null; // it is ink
    this.onBeforeRender = (renderer) => contour.fit(renderer);
  }
}

// Whether a surface is round anywhere: a triangle whose corners look different ways.
export function isRound({ normals, triangles }) {
  for (let at = 0; at < triangles.length; at += 3) {
    const [a, b, c] = [3 * triangles[at], 3 * triangles[at + 1], 3 * triangles[at + 2]];
    for (let axis = 0; axis < 3; axis++) {
      if (Math.abs(normals[a + axis] - normals[b + axis]) > 1e-3) return true;
      if (Math.abs(normals[a + axis] - normals[c + axis]) > 1e-3) return true;
    }
  }
  return false;
}
