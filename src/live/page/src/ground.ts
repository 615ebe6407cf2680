// The ground and what stands on it: made again when it changes.

import * as three from 'three';

import type { Look } from './look';
import { type Barrier, type Ground, type Level, floats, octets } from './messages';
import type { State } from './state';

const wallHeight = 1; // metres, of barriers on grounds without heights

export function groundParts(
  state: State,
  look: Look,
  layers: { ground: boolean; walkable: boolean; terrain: boolean },
  fromAbove: boolean,
): three.Group {
  const group = new three.Group();
  const { scene, ground } = state;
  if (!scene || !ground) return group;
  if (layers.ground) {
    if (state.level) group.add(levelPart(state.level, look));
    if (ground.tiles) group.add(tileSheet(ground.tiles, look, layers.terrain));
    if (!ground.tiles && !ground.mesh) for (const part of openSheet(scene.min, scene.max, look)) group.add(part);
  }
  if (ground.mesh) for (const part of meshParts(ground.mesh, look, layers.walkable, state.level !== null)) group.add(part);
  if (ground.mesh && layers.terrain) for (const part of costlyParts(ground.mesh.costly, look)) group.add(part);
  for (const crossing of ground.crossings ?? []) group.add(crossingBow(crossing, look));
  for (const barrier of ground.barriers) group.add(barrierBlock(barrier, look, state.barrier === barrier.name, fromAbove));
  return group;
}

function triangles(corners: Float32Array, material: three.Material): three.Mesh {
  const geometry = new three.BufferGeometry();
  geometry.setAttribute('position', new three.BufferAttribute(corners, 3));
  geometry.computeVertexNormals();
  return new three.Mesh(geometry, material);
}

let made: { of: Level; look: Look; part: three.Group } | null = null;

/** The level's geometry, which stays while barriers come and go. */
function levelPart(level: Level, look: Look): three.Group {
  if (made && made.of === level && made.look === look) return made.part;
  if (made) dispose(made.part);
  const parts = new three.Group();
  parts.userData.kept = true;
  made = { of: level, look, part: parts };
  const offset = { polygonOffset: true, polygonOffsetFactor: 1, polygonOffsetUnits: 1, side: three.DoubleSide };
  const kinds: [Float32Array, three.Material][] = [
    [floats(level.solid), new three.MeshLambertMaterial({ color: look.light, ...offset })],
    [floats(level.barred), new three.MeshLambertMaterial({ color: look.water, ...offset })],
    [floats(level.decor), new three.MeshLambertMaterial({ color: look.faint, transparent: true, opacity: 0.35, ...offset })],
  ];
  for (const [corners, material] of kinds) {
    if (corners.length === 0) continue;
    const mesh = triangles(corners, material);
    parts.add(mesh);
    if (corners.length > 900_000) continue; // with more corners than that, edges would hide all else
    const edges = new three.EdgesGeometry(mesh.geometry, 20);
    parts.add(new three.LineSegments(edges, new three.LineBasicMaterial({ color: look.ink, transparent: true, opacity: 0.45 })));
  }
  return parts;
}

function meshParts(mesh: { triangles: string; edges: string }, look: Look, walkable: boolean, level: boolean): three.Object3D[] {
  if (!walkable && level) return [];
  const sheet = triangles(
    floats(mesh.triangles),
    new three.MeshBasicMaterial({
      color: level ? look.walkable : look.light,
      transparent: level,
      opacity: level ? 0.7 : 1,
      side: three.DoubleSide,
      polygonOffset: true,
      polygonOffsetFactor: level ? -1 : 1,
      polygonOffsetUnits: level ? -2 : 1,
    }),
  );
  const lines = new three.BufferGeometry();
  lines.setAttribute('position', new three.BufferAttribute(floats(mesh.edges), 3));
  const rim = new three.LineSegments(lines, new three.LineBasicMaterial({ color: look.ink }));
  sheet.position.z = level ? 0.015 : 0;
  rim.position.z = 0.025;
  return [sheet, rim];
}

/** Ground on which a way costs more. */
function costlyParts(costly: string, look: Look): three.Object3D[] {
  const corners = floats(costly);
  if (corners.length === 0) return [];
  const wash = triangles(
    corners,
    new three.MeshBasicMaterial({ color: look.barrier, transparent: true, opacity: 0.35, side: three.DoubleSide, depthWrite: false }),
  );
  wash.position.z = 0.03;
  return [wash];
}

/** Tiles as a picture of their own: paper, washes for what costs more, hatching for what is blocked. */
function tileSheet(tiles: NonNullable<Ground['tiles']>, look: Look, terrain: boolean): three.Mesh {
  const { width, height, cell } = tiles;
  const costs = octets(tiles.costs);
  const pixels = Math.max(1, Math.min(12, Math.floor(4096 / Math.max(width, height))));
  const canvas = document.createElement('canvas');
  canvas.width = width * pixels;
  canvas.height = height * pixels;
  const pen = canvas.getContext('2d') as CanvasRenderingContext2D;
  pen.fillStyle = look.light;
  pen.fillRect(0, 0, canvas.width, canvas.height);
  for (let y = 0; y < height; ++y)
    for (let x = 0; x < width; ++x) {
      const cost = costs[y * width + x];
      if (cost === 1 || (cost > 1 && !terrain)) continue;
      const left = x * pixels;
      const top = (height - 1 - y) * pixels;
      pen.globalAlpha = cost === 0 ? 1 : Math.min(0.7, 0.12 + 0.06 * cost);
      pen.fillStyle = cost === 0 ? look.faint : look.barrier;
      pen.fillRect(left, top, pixels, pixels);
      pen.globalAlpha = 1;
      if (cost !== 0 || pixels < 6) continue;
      pen.strokeStyle = look.ink;
      pen.lineWidth = 1;
      pen.beginPath();
      pen.moveTo(left, top + pixels);
      pen.lineTo(left + pixels, top);
      pen.stroke();
    }
  const texture = new three.CanvasTexture(canvas);
  texture.colorSpace = three.SRGBColorSpace;
  texture.magFilter = three.NearestFilter;
  texture.anisotropy = 4;
  const sheet = new three.Mesh(
    new three.PlaneGeometry(width * cell, height * cell),
    new three.MeshBasicMaterial({ map: texture, side: three.DoubleSide }),
  );
  sheet.position.set(tiles.origin[0] + (width * cell) / 2, tiles.origin[1] + (height * cell) / 2, 0);
  return sheet;
}

function openSheet(min: [number, number], max: [number, number], look: Look): three.Object3D[] {
  const far = 400; // metres: more is not seen at once
  const low = [Math.max(min[0], -far), Math.max(min[1], -far)];
  const high = [Math.min(max[0], far), Math.min(max[1], far)];
  const sheet = new three.Mesh(
    new three.PlaneGeometry(high[0] - low[0], high[1] - low[1]),
    new three.MeshBasicMaterial({ color: look.light, side: three.DoubleSide }),
  );
  sheet.position.set((low[0] + high[0]) / 2, (low[1] + high[1]) / 2, -0.02);
  const points: number[] = [];
  const step = high[0] - low[0] > 200 ? 10 : 5;
  for (let x = Math.ceil(low[0] / step) * step; x <= high[0]; x += step) points.push(x, low[1], -0.01, x, high[1], -0.01);
  for (let y = Math.ceil(low[1] / step) * step; y <= high[1]; y += step) points.push(low[0], y, -0.01, high[0], y, -0.01);
  const lines = new three.BufferGeometry();
  lines.setAttribute('position', new three.Float32BufferAttribute(points, 3));
  return [sheet, new three.LineSegments(lines, new three.LineBasicMaterial({ color: look.faint, transparent: true, opacity: 0.35 }))];
}

function barrierBlock(barrier: Barrier, look: Look, chosen: boolean, fromAbove: boolean): three.Object3D {
  const shape = new three.Shape();
  if (barrier.corners.length === 1) shape.absarc(barrier.corners[0][0], barrier.corners[0][1], barrier.radius, 0, 2 * Math.PI);
  else barrier.corners.forEach(([x, y], i) => (i === 0 ? shape.moveTo(x, y) : shape.lineTo(x, y)));
  const bottom = barrier.bottom ?? 0;
  const soft = barrier.cost > 0;
  const top = soft ? bottom + 0.05 : (barrier.top ?? bottom + wallHeight);
  const geometry = new three.ExtrudeGeometry(shape, { depth: Math.max(0.02, top - bottom), bevelEnabled: false, curveSegments: 20 });
  const block = new three.Mesh(
    geometry,
    new three.MeshLambertMaterial({ color: look.barrier, transparent: true, opacity: soft ? 0.3 : fromAbove ? 0.75 : 0.9 }),
  );
  block.add(
    new three.LineSegments(
      new three.EdgesGeometry(geometry, 30),
      new three.LineBasicMaterial({ color: chosen ? look.chosen : look.ink }),
    ),
  );
  block.position.z = bottom + 0.01;
  return block;
}

function crossingBow(crossing: NonNullable<Ground['crossings']>[number], look: Look): three.Object3D {
  const from = new three.Vector3(...crossing.from);
  const to = new three.Vector3(...crossing.to);
  const middle = from.clone().lerp(to, 0.5);
  middle.z = Math.max(from.z, to.z) + 0.4;
  const points = new three.QuadraticBezierCurve3(from, middle, to).getPoints(16);
  const line = new three.Line(
    new three.BufferGeometry().setFromPoints(points),
    new three.LineDashedMaterial({ color: crossing.shut ? look.chosen : look.other, dashSize: 0.25, gapSize: 0.15 }),
  );
  line.computeLineDistances();
  line.position.z = 0.06;
  return line;
}

/** Gives back what a group is drawn of; what is kept only leaves it. */
export function dispose(group: three.Object3D): void {
  for (const kept of group.children.filter((part) => part.userData.kept)) group.remove(kept);
  group.traverse((part) => {
    if (part instanceof three.Mesh || part instanceof three.LineSegments || part instanceof three.Points) {
      part.geometry.dispose();
      for (const material of [part.material].flat()) material.dispose();
    }
  });
  group.removeFromParent();
}
