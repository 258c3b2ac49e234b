// Matte plaster: a sky, a sun and the tint of the part, worked out at each corner, so that a pixel
// costs next to nothing (which matters where the picture is drawn in software).
import * as THREE from "three";

const USUAL = new THREE.Vector3(-0.4, -0.9, 1.3).normalize();
const SUN = USUAL.clone(); // of all plaster

// Where the light comes from: a direction to the sun, or as usual.
export function setSun(direction) {
  SUN.copy(direction ?? USUAL);
}

// The place of a corner, and in `turned` its normal as the placement of the copy leaves it.
export const TURNED_NORMAL = /* glsl */ `
  #include <beginnormal_vertex>
  #include <begin_vertex>
  vec3 turned = objectNormal;
  #ifdef USE_INSTANCING
    mat3 turn = mat3(instanceMatrix);
    turned /= vec3(dot(turn[0], turn[0]), dot(turn[1], turn[1]), dot(turn[2], turn[2]));
    turned = turn * turned;
  #endif
`;

const VERTEX = /* glsl */ `
#include <common>
#include <clipping_planes_pars_vertex>
// From linear light to sRGB (IEC 61966-2-1).
vec3 displayed(vec3 value) {
  return mix(pow(value, vec3(0.41666)) * 1.055 - vec3(0.055), value * 12.92, vec3(lessThanEqual(value, vec3(0.0031308))));
}
uniform vec3 sun;
uniform vec3 tint;
varying vec3 shade;
void main() {
  ${TURNED_NORMAL}
  turned = normalize(mat3(modelMatrix) * turned);
  // Faces seen from behind are lit as if they looked the other way.
  vec3 view = vec3(viewMatrix[0][2], viewMatrix[1][2], viewMatrix[2][2]);
  if (dot(turned, view) < -0.001) turned = -turned;
  float light = mix(0.62, 0.78, 0.5 + 0.5 * turned.z) + 0.34 * max(dot(turned, sun), 0.0);
  vec3 own = tint;
  #ifdef USE_INSTANCING_COLOR
    own *= instanceColor;
  #endif
  shade = displayed(own * light);
  #include <project_vertex>
  #include <clipping_planes_vertex>
}`;

const FRAGMENT = /* glsl */ `
#include <common>
#include <clipping_planes_pars_fragment>
uniform float opacity;
varying vec3 shade;
void main() {
  #include <clipping_planes_fragment>
  gl_FragColor = vec4(shade, opacity);
}`;

export class Plaster extends THREE.ShaderMaterial {
  constructor(options = {}) {
    super({
      vertexShader: VERTEX,
      fragmentShader: FRAGMENT,
      uniforms: { tint: { value: new THREE.Color() }, opacity: { value: 1 }, sun: { value: SUN } },
      side: THREE.DoubleSide,
      clipping: true,
      polygonOffset: true,
      polygonOffsetFactor: 1,
      polygonOffsetUnits: 1,
      ...options,
    });
  }

  get color() {
    return this.uniforms.tint.value;
  }

  setOpacity(opacity) {
    this.uniforms.opacity.value = opacity;
  }
}
