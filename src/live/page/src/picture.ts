// The scene as it is drawn: ground, barriers and characters, seen straight from above or from aside.

import * as three from 'three';
import { OrbitControls } from 'three/addons/controls/OrbitControls.js';

import { dispose, groundParts } from './ground';
import { type Look, currentLook } from './look';
import { Marks } from './marks';
import type { Point } from './messages';
import type { State } from './state';

const leastPixels = 9; // half the width of a character, at least, from above

export class Picture {
  readonly canvas: HTMLCanvasElement;
  readonly layers = {
    ground: true,
    walkable: true,
    terrain: true,
    places: true,
    waypoints: true,
    routes: false,
    circles: true,
    bodies: false,
    wanted: false,
    neighbours: false,
  };
  fromAbove = true;
  look: Look = currentLook();
  private readonly renderer: three.WebGLRenderer;
  private readonly scene = new three.Scene();
  private readonly flat = new three.OrthographicCamera(-1, 1, 1, -1, -2000, 4000);
  private readonly deep = new three.PerspectiveCamera(50, 1, 0.1, 4000);
  private readonly orbit: OrbitControls;
  private readonly pan: OrbitControls;
  private readonly marks: Marks;
  private ground = new three.Group();
  private bodies: three.InstancedMesh | null = null;
  private arrows: three.InstancedMesh | null = null;
  private rims: three.InstancedMesh | null = null;
  private dirty = true;
  private shown = false;
  private moved = false; // by its user: then a change of the window's size leaves it where it is
  private width = 1;
  private height = 1;

  constructor(
    private readonly state: State,
    canvas: HTMLCanvasElement,
    private readonly drawLabels: (picture: Picture) => void,
  ) {
    this.canvas = canvas;
    this.renderer = new three.WebGLRenderer({ canvas, antialias: !drawnBySoftware(), powerPreference: 'low-power' });
    this.flat.up.set(0, 1, 0);
    this.deep.up.set(0, 0, 1);
    this.orbit = this.controls(this.deep, true);
    this.pan = this.controls(this.flat, false);
    this.marks = new Marks(state, this.layers);
    this.scene.add(this.ground, this.marks.group);
    this.scene.add(new three.HemisphereLight(0xffffff, 0x8a8072, 2.2));
    const sun = new three.DirectionalLight(0xffffff, 1.4);
    sun.position.set(-30, -50, 80);
    this.scene.add(sun);
    state.on(['ground', 'view'], () => this.rebuild());
    state.on(['scene'], () => this.recast());
    state.on(['frame', 'closely', 'selection', 'tool'], () => this.touch());
    new ResizeObserver(() => this.resize()).observe(canvas.parentElement as Element);
    const draw = (): void => {
      requestAnimationFrame(draw);
      if (this.dirty) this.draw();
    };
    draw();
  }

  touch(): void {
    this.dirty = true;
  }

  get camera(): three.Camera {
    return this.fromAbove ? this.flat : this.deep;
  }

  private controls(camera: three.Camera, turns: boolean): OrbitControls {
    const controls = new OrbitControls(camera, this.canvas);
    controls.enableRotate = turns;
    controls.screenSpacePanning = !turns;
    controls.zoomToCursor = true;
    controls.mouseButtons = {
      LEFT: null,
      MIDDLE: three.MOUSE.PAN,
      RIGHT: turns ? three.MOUSE.ROTATE : three.MOUSE.PAN,
    };
    controls.maxPolarAngle = 1.5;
    controls.addEventListener('change', () => this.touch());
    controls.addEventListener('start', () => (this.moved = true));
    return controls;
  }

  /** Shows the whole ground, from above or from the south. */
  reset(): void {
    const scene = this.state.scene;
    if (!scene) return;
    const [low, high] = bounds(scene.min, scene.max, this.state);
    const middle = new three.Vector3((low[0] + high[0]) / 2, (low[1] + high[1]) / 2, 0);
    const size = Math.max(4, high[0] - low[0], ((high[1] - low[1]) * this.width) / this.height);
    this.flat.zoom = 1;
    this.flat.userData.metres = size * 1.12;
    this.flat.position.copy(middle).setZ(1000);
    this.pan.target.copy(middle);
    this.deep.position.set(middle.x, middle.y - size * 1.02, size * 0.74);
    this.orbit.target.copy(middle);
    this.moved = false;
    this.fit();
    this.pan.update();
    this.orbit.update();
  }

  setView(fromAbove: boolean): void {
    this.fromAbove = fromAbove;
    this.pan.enabled = fromAbove;
    this.orbit.enabled = !fromAbove;
    this.state.tell('view');
  }

  move(right: number, up: number): void {
    this.moved = true;
    const metres = 0.1 * this.metresAcross();
    const shift = new three.Vector3(right * metres, up * metres, 0);
    for (const [camera, controls] of [
      [this.flat, this.pan],
      [this.deep, this.orbit],
    ] as const) {
      camera.position.add(shift);
      controls.target.add(shift);
      controls.update();
    }
    this.touch();
  }

  zoom(factor: number): void {
    this.moved = true;
    this.flat.zoom = Math.min(200, Math.max(0.05, this.flat.zoom * factor));
    this.flat.updateProjectionMatrix();
    this.deep.position.lerpVectors(this.orbit.target, this.deep.position, 1 / factor);
    this.orbit.update();
    this.touch();
  }

  metresAcross(): number {
    if (this.fromAbove) return (this.flat.right - this.flat.left) / this.flat.zoom;
    return this.deep.position.distanceTo(this.orbit.target) * 1.2;
  }
  metresPerPixel(): number {
    return this.metresAcross() / this.width;
  }

  private resize(): void {
    const box = (this.canvas.parentElement as Element).getBoundingClientRect();
    this.width = Math.max(1, box.width);
    this.height = Math.max(1, box.height);
    this.renderer.setPixelRatio(Math.min(2, devicePixelRatio));
    this.renderer.setSize(this.width, this.height);
    if (this.moved) this.fit();
    else this.reset();
    this.touch();
  }

  /** Lets the cameras see as much as the picture has room for. */
  private fit(): void {
    const half = ((this.flat.userData.metres as number) || 40) / 2;
    this.flat.left = -half;
    this.flat.right = half;
    this.flat.top = (half * this.height) / this.width;
    this.flat.bottom = -this.flat.top;
    this.flat.updateProjectionMatrix();
    this.deep.aspect = this.width / this.height;
    this.deep.updateProjectionMatrix();
    this.touch();
  }

  /** Where a point is seen, in pixels of the picture; nothing when it lies behind. */
  pixel(at: Point): [number, number] | null {
    const seen = new three.Vector3(...at).project(this.camera);
    if (seen.z > 1 || seen.z < -1) return null;
    return [((seen.x + 1) / 2) * this.width, ((1 - seen.y) / 2) * this.height];
  }

  /** The line along which all lies that is seen at a pixel. */
  ray(x: number, y: number): { from: Point; direction: Point } {
    const caster = new three.Raycaster();
    const at = new three.Vector2((2 * x) / this.width - 1, 1 - (2 * y) / this.height);
    caster.setFromCamera(at, this.fromAbove ? this.flat : this.deep);
    return { from: caster.ray.origin.toArray() as Point, direction: caster.ray.direction.toArray() as Point };
  }

  /** Where that line comes to a height. */
  atHeight(x: number, y: number, z = 0): Point | null {
    const { from, direction } = this.ray(x, y);
    const along = (z - from[2]) / direction[2];
    if (!Number.isFinite(along) || along < 0) return null;
    return [from[0] + along * direction[0], from[1] + along * direction[1], z];
  }

  private rebuild(): void {
    const { scene } = this.state;
    if (!scene) return;
    this.look = currentLook();
    this.scene.background = new three.Color(this.look.paper);
    dispose(this.ground);
    this.ground = groundParts(this.state, this.look, this.layers, this.fromAbove);
    this.scene.add(this.ground);
    this.makeCharacters(scene.npcs.length);
    if (!this.shown) this.reset();
    this.shown = true;
    this.touch();
  }

  /** Others may be there now than were before. */
  private recast(): void {
    const count = this.state.scene?.npcs.length ?? 0;
    if (this.arrows?.userData.count !== count) this.makeCharacters(count);
    this.touch();
  }

  private makeCharacters(count: number): void {
    for (const mesh of [this.bodies, this.arrows, this.rims])
      if (mesh) {
        this.scene.remove(mesh);
        mesh.geometry.dispose();
        (mesh.material as three.Material).dispose();
      }
    // As few corners as look round: there may be thousands, and no graphics card.
    this.arrows = new three.InstancedMesh(
      new three.ShapeGeometry(shoeShape(), 4),
      new three.MeshBasicMaterial({ side: three.DoubleSide, depthTest: !this.fromAbove, transparent: this.fromAbove }),
      count,
    );
    this.rims = new three.InstancedMesh(
      new three.RingGeometry(1.55, 1.8, 24),
      new three.MeshBasicMaterial({ side: three.DoubleSide, depthTest: !this.fromAbove, transparent: this.fromAbove }),
      count,
    );
    this.bodies = new three.InstancedMesh(
      new three.CylinderGeometry(1, 1, 1, count > 200 ? 8 : 20).rotateX(Math.PI / 2).translate(0, 0, 0.5),
      new three.MeshLambertMaterial({ transparent: true, opacity: 0.45 }),
      count,
    );
    this.arrows.userData.count = count;
    for (const mesh of [this.bodies, this.arrows, this.rims]) {
      mesh.frustumCulled = false;
      if (this.fromAbove) mesh.renderOrder = 1; // over roofs, or who is inside could not be seen
      this.scene.add(mesh);
    }
  }

  private place(): void {
    const { scene, frame } = this.state;
    if (!scene || !frame || !this.bodies || !this.arrows || !this.rims || frame.count !== scene.npcs.length) return;
    const matrix = new three.Matrix4();
    const min = this.fromAbove ? leastPixels * this.metresPerPixel() : 0;
    const chosen = new Set(this.state.selected);
    const [ink, picked, other] = [this.look.ink, this.look.chosen, this.look.other].map((c) => new three.Color(c));
    const nowhere = new three.Matrix4().makeScale(0, 0, 0);
    let rims = 0;
    for (let i = 0; i < frame.count; ++i) {
      const one = scene.npcs[i];
      if (!frame.alive(i)) {
        for (const mesh of [this.bodies, this.arrows]) mesh.setMatrixAt(i, nowhere);
        continue;
      }
      const [x, y, z] = frame.position(i);
      const isChosen = chosen.has(one.name) || this.state.pinned === one.name;
      const color = this.state.pinned === one.name ? other : isChosen ? picked : ink;
      const radius = Math.max(one.radius, min);
      matrix.makeRotationZ(frame.heading(i)).scale(new three.Vector3(radius, radius, 1)).setPosition(x, y, z + 0.03);
      this.arrows.setMatrixAt(i, matrix);
      this.arrows.setColorAt(i, color);
      const deck = one.deck[0] > 0 && one.deck[1] > 0;
      if (deck) matrix.makeRotationZ(frame.heading(i)).scale(new three.Vector3(one.deck[0] / 1.6, one.deck[1] / 1.6, 0.1));
      else matrix.makeScale(one.radius, one.radius, one.height);
      this.bodies.setMatrixAt(i, matrix.setPosition(x, y, deck ? z - 0.1 : z));
      this.bodies.setColorAt(i, color);
      matrix.makeScale(radius, radius, 1).setPosition(x, y, z + 0.05);
      if (!isChosen) continue;
      this.rims.setColorAt(rims, color);
      this.rims.setMatrixAt(rims++, matrix);
    }
    this.rims.count = rims;
    for (const mesh of [this.bodies, this.arrows, this.rims]) {
      mesh.instanceMatrix.needsUpdate = true;
      if (mesh.instanceColor) mesh.instanceColor.needsUpdate = true;
    }
    this.bodies.visible = this.layers.bodies || !this.fromAbove;
    if (this.state.followed) this.keepInMiddle(this.state.index(this.state.followed));
  }

  private keepInMiddle(i: number): void {
    const { frame } = this.state;
    if (!frame || i < 0 || !frame.alive(i)) return;
    const at = new three.Vector3(...frame.position(i));
    const shift = at.clone().sub(this.orbit.target);
    this.deep.position.add(shift);
    this.orbit.target.copy(at);
    this.flat.position.set(at.x, at.y, 1000);
    this.pan.target.set(at.x, at.y, 0);
  }

  private draw(): void {
    this.dirty = false;
    this.place();
    this.marks.update(this.look);
    this.renderer.render(this.scene, this.camera);
    this.drawLabels(this);
  }
}

/** True where there is no graphics card: then edges are not smoothed, which would take most of the time. */
function drawnBySoftware(): boolean {
  const gl = document.createElement('canvas').getContext('webgl2');
  const info = gl?.getExtension('WEBGL_debug_renderer_info');
  const name = String(info ? gl?.getParameter(info.UNMASKED_RENDERER_WEBGL) : '');
  gl?.getExtension('WEBGL_lose_context')?.loseContext();
  return /swiftshader|llvmpipe|software/i.test(name);
}

/** A pointed sole of about a metre to each side, pointing along x. */
function shoeShape(): three.Shape {
  const shape = new three.Shape();
  shape.moveTo(1.5, 0);
  shape.bezierCurveTo(0.9, 0.3, 0.5, 0.85, 0.1, 0.6);
  shape.bezierCurveTo(-0.3, 0.35, -1.1, 0.75, -0.95, 0);
  shape.bezierCurveTo(-1.1, -0.75, -0.3, -0.35, 0.1, -0.6);
  shape.bezierCurveTo(0.5, -0.85, 0.9, -0.3, 1.5, 0);
  return shape;
}

/** What should be seen at first: the ground, or of endless ground where there is somebody. */
function bounds(min: [number, number], max: [number, number], state: State): [[number, number], [number, number]] {
  if (max[0] - min[0] < 5000) return [min, max];
  const points: Point[] = (state.scene?.places ?? []).map((place) => place.at);
  for (const beat of state.scene?.beats ?? []) points.push(...beat.points.map((point) => point.at));
  const frame = state.frame;
  if (frame) for (let i = 0; i < frame.count; ++i) points.push(frame.position(i));
  if (points.length === 0) return [[-20, -20], [20, 20]];
  const xs = points.map((point) => point[0]);
  const ys = points.map((point) => point[1]);
  return [
    [Math.min(...xs) - 4, Math.min(...ys) - 4],
    [Math.max(...xs) + 4, Math.max(...ys) + 4],
  ];
}
