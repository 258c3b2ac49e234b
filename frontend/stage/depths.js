// How far away the parts are that are seen: a picture of their depths, and what is read from it:
// shade in hollows, and where the picture is free of parts.
import * as THREE from "three";

import { shareOfCells } from "./cells.js";

const SAMPLES = 20;
const REACH = 0.07; // how far a hollow reaches, as a share of the size of all parts
const WIDEST = 64; // pixels looked around at most
const MOST_PIXELS = 1_500_000; // are looked at; of a larger picture only a share, each way
const CELL = 6; // pixels of the stage in a cell of the free places

const VERTEX = /* glsl */ `
varying vec2 place;
void main() {
  place = uv;
  gl_Position = vec4(position.xy, 0.0, 1.0);
}`;

// How much of the sky a place does not see: Alchemy's estimator over points around it on the screen
// (McGuire, Mara, Luebke, Scalable ambient obscurance, 2012), on a sunflower spiral (Vogel 1979) that
// each pixel turns by its own angle (interleaved gradient noise, Jimenez 2014).
const OBSCURED = /* glsl */ `
uniform sampler2D depths;
uniform vec2 size;
uniform float range, pixel, reach;
varying vec2 place;
vec3 point(vec2 at) {
  return vec3(at * size * pixel, -texture2D(depths, at).r * range);
}
vec3 lesser(vec3 a, vec3 b) {
  return abs(a.z) < abs(b.z) ? a : b;
}
void main() {
  gl_FragColor = vec4(1.0);
  if (texture2D(depths, place).r >= 1.0) return;
  vec3 here = point(place);
  vec2 right = vec2(1.0 / size.x, 0.0), up = vec2(0.0, 1.0 / size.y);
  vec3 x = lesser(here - point(place - right), point(place + right) - here);
  vec3 y = lesser(here - point(place - up), point(place + up) - here);
  vec3 normal = normalize(cross(x, y));
  float turn = 6.2831853 * fract(52.9829189 * fract(dot(gl_FragCoord.xy, vec2(0.06711056, 0.00583715))));
  float sum = 0.0;
  for (int k = 0; k < ${SAMPLES}; k++) {
    float share = (float(k) + 0.5) / ${SAMPLES}.0;
    float angle = turn + 2.39996323 * float(k);
    vec3 offset = point(place + vec2(cos(angle), sin(angle)) * share * reach / pixel / size) - here;
    float away = length(offset) + 1e-6;
    sum += max(0.0, 1.0 - away * away / (4.0 * reach * reach)) * max(0.0, dot(normal, offset) / away - 0.2);
  }
  gl_FragColor = vec4(vec3(max(1.0 - 2.0 * sum / ${SAMPLES}.0, 0.4)), 1.0);
}`;

const LAID_OVER = /* glsl */ `
uniform sampler2D shade;
uniform vec2 size;
varying vec2 place;
void main() {
  vec2 one = 0.75 / size;
  vec4 sum = texture2D(shade, place + one) + texture2D(shade, place - one);
  sum += texture2D(shade, place + vec2(one.x, -one.y)) + texture2D(shade, place + vec2(-one.x, one.y));
  gl_FragColor = vec4(sum.rgb / 4.0, 1.0);
}`;

const COVERED = /* glsl */ `
uniform sampler2D depths;
varying vec2 place;
void main() {
  gl_FragColor = vec4(vec3(texture2D(depths, place).r < 1.0 ? 1.0 : 0.0), 1.0);
}`;

// A picture that is worked out pixel by pixel from others.
class PixelWork {
  constructor(fragmentShader, uniforms, options = {}) {
    const material = new THREE.ShaderMaterial({ vertexShader: VERTEX, fragmentShader, uniforms, depthTest: false, depthWrite: false, ...options });
    this.uniforms = material.uniforms;
    this.mesh = new THREE.Mesh(new THREE.PlaneGeometry(2, 2), material);
    this.mesh.frustumCulled = false;
    this.camera = new THREE.Camera();
  }

  draw(renderer, target) {
    renderer.setRenderTarget(target);
    renderer.render(this.mesh, this.camera);
    renderer.setRenderTarget(null);
  }
}

export class Depths {
  constructor() {
    this.depths = new THREE.WebGLRenderTarget(1, 1, { depthTexture: new THREE.DepthTexture(1, 1, THREE.FloatType) });
    this.shade = new THREE.WebGLRenderTarget(1, 1);
    this.cells = new THREE.WebGLRenderTarget(1, 1);
    const depths = { value: this.depths.depthTexture };
    const size = { value: new THREE.Vector2() };
    this.obscured = new PixelWork(OBSCURED, { depths, size, range: { value: 1 }, pixel: { value: 1 }, reach: { value: 1 } });
    this.covered = new PixelWork(COVERED, { depths });
    this.laidOver = new PixelWork(LAID_OVER, { shade: { value: this.shade.texture }, size }, {
      transparent: true, blending: THREE.CustomBlending, blendSrc: THREE.ZeroFactor, blendDst: THREE.SrcColorFactor,
    });
  }

  // Lays shade over the picture that was just drawn; at most `share` of its pixels are looked at each way.
  shadeHollows(stage, share) {
    const { renderer, camera } = stage;
    const { x, y } = renderer.getDrawingBufferSize(new THREE.Vector2());
    const looked = Math.min(share, Math.sqrt(MOST_PIXELS / (x * y)));
    this.#look(stage, Math.ceil(x * looked), Math.ceil(y * looked));
    const { width, height } = this.depths;
    const { range, pixel, reach } = this.obscured.uniforms;
    this.shade.setSize(width, height);
    this.obscured.uniforms.size.value.set(width, height);
    range.value = camera.far - camera.near;
    pixel.value = (camera.right - camera.left) / camera.zoom / width;
    reach.value = Math.min(REACH * stage.partsSize(), WIDEST * pixel.value);
    this.#plainly(renderer, () => {
      this.obscured.draw(renderer, this.shade);
      this.laidOver.draw(renderer, null);
    });
  }

  // Where parts are seen: a function that tells what share of a box (by its middle, in pixels of the
  // stage) they cover.
  coveredBy(stage) {
    const { renderer, size } = stage;
    const [width, height] = [Math.ceil(size.width / CELL), Math.ceil(size.height / CELL)];
    this.#look(stage, width, height);
    this.cells.setSize(width, height);
    this.#plainly(renderer, () => this.covered.draw(renderer, this.cells));
    const cells = new Uint8Array(4 * width * height);
    renderer.readRenderTargetPixels(this.cells, 0, 0, width, height, cells);
    return shareOfCells(cells, width, height, CELL);
  }

  #look(stage, width, height) {
    const { renderer, camera } = stage;
    this.depths.setSize(width, height);
    renderer.setRenderTarget(this.depths);
    renderer.clear();
    this.#plainly(renderer, () => {
      for (const { group } of stage.visibleParts()) renderer.render(group, camera);
    });
    renderer.setRenderTarget(null);
  }

  // Without clearing what is there.
  #plainly(renderer, work) {
    const { autoClear } = renderer;
    renderer.autoClear = false;
    work();
    renderer.autoClear = autoClear;
  }
}
