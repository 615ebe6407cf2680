// The page: its parts put together, what is shown, and the keys.

import GUI from 'lil-gui';

import { NpcList } from './npc_list';
import { Changes } from './changes';
import { Clock } from './clock';
import { button, el } from './elements';
import { Inspector } from './inspector';
import { Labels } from './labels';
import { Link } from './link';
import type { Message, Point } from './messages';
import { Picture } from './picture';
import { Pointer } from './pointer';
import { State, type Tool } from './state';

const state = new State();
const hintBox = document.getElementById('hint') as HTMLElement;
let hintTimer = 0;

function hint(text: string, bad = false): void {
  hintBox.textContent = text;
  hintBox.classList.toggle('bad', bad);
  clearTimeout(hintTimer);
  if (text) hintTimer = window.setTimeout(() => (hintBox.textContent = ''), bad ? 8000 : 5000);
}

const link = new Link({
  message: hear,
  frame(frame) {
    state.frame = frame;
    state.tell('frame');
  },
  state(connected, why) {
    document.body.classList.toggle('lost', !connected);
    if (!connected) hint(`Not connected: ${why}`, true);
    else void watch();
  },
});

function hear(message: Message): void {
  if (message.type === 'scene') {
    const restarted = state.scene !== null && state.scene.play !== message.play;
    state.scene = message;
    if (restarted) {
      state.journal = [];
      state.level = null; // another one may follow
    }
    const known = state.selected.filter((name) => state.index(name) >= 0);
    if (known.length !== state.selected.length) state.select(known);
    heading();
    state.tell('scene');
  } else if (message.type === 'level') {
    state.level = message;
  } else if (message.type === 'ground') {
    state.ground = message;
    state.tell('ground');
  } else if (message.type === 'closely') {
    for (const look of message.npcs) state.remember(look, message.t);
    state.routes = message.routes;
    state.tell('closely');
  } else if (message.type === 'journal') {
    state.note(message.notes);
  } else if (message.type === 'remark') {
    hint(message.text, /:\d+:\d+:/.test(message.text));
  }
}

function heading(): void {
  if (!state.scene) return;
  (document.getElementById('title') as HTMLElement).textContent = state.scene.title || state.scene.file;
  const file = document.getElementById('file') as HTMLElement;
  file.textContent = state.scene.file.split('/').pop() ?? '';
  file.title = state.scene.file;
  document.title = `${state.scene.title || state.scene.file} – Ambulon live`;
}

const names = { names: true, places: true };
const labels = new Labels(state, document.getElementById('labels') as HTMLCanvasElement, names);
const picture = new Picture(state, document.getElementById('picture') as HTMLCanvasElement, (seen) => labels.draw(seen));
const pointer = new Pointer(state, link, picture, labels, hint);
const inspector = new Inspector(state, link, document.getElementById('inspector') as HTMLElement, hint);
const npcList = new NpcList(state);
const clock = new Clock(state, link, hint);
const changes = new Changes(state, link, hint);

/** Tells the program which characters this page shows. */
async function watch(): Promise<void> {
  if (link.page === 0) return;
  const npcs = state.inspected();
  await link
    .send({ watch: { npcs, routes: picture.layers.routes, neighbours: picture.layers.neighbours } })
    .catch(() => undefined); // a character was removed; the next frame shows it
}
state.on(['selection'], () => void watch());

// --- what the pointer does, and the view

const tools: [Tool, string, string][] = [
  ['select', 'Select', '1: click or drag a box to choose characters'],
  ['send', 'Send', '2: click where the chosen should go; hold, and they follow; Shift adds a place'],
  ['barrier', 'Barrier', '3: drag a box to put up a barrier; drag one to move it; Delete takes it away'],
  ['move', 'Move', '4: drag places and waypoints'],
];
const toolButtons = tools.map(([tool, name, title]) => {
  const made = button(name, () => setTool(tool));
  made.title = title;
  made.setAttribute('role', 'radio');
  document.getElementById('tools')?.append(made);
  return made;
});
function setTool(tool: Tool): void {
  state.tool = tool;
  tools.forEach(([each], i) => toolButtons[i].setAttribute('aria-checked', String(each === tool)));
  picture.canvas.dataset.tool = tool;
  state.tell('tool');
}

const view = button('Side view', () => setView(!picture.fromAbove));
view.title = 'V';
const whole = button('Whole ground', () => {
  state.followed = null;
  picture.reset();
});
whole.title = 'Home';
const light = button('Night', () => {
  const night = document.documentElement.dataset.light !== 'night';
  document.documentElement.dataset.light = night ? 'night' : 'day';
  light.textContent = night ? 'Day' : 'Night';
  state.tell('view');
  inspector.refresh();
});
document.getElementById('views')?.append(view, whole, light, changes.open);
function setView(fromAbove: boolean): void {
  picture.setView(fromAbove);
  view.textContent = fromAbove ? 'Side view' : 'Top view';
}

// --- what is shown

const gui = new GUI({ container: document.getElementById('layers') as HTMLElement, title: 'Layers' });
const redraw = (): void => state.tell('view');
gui.add(picture.layers, 'ground').name('ground').onChange(redraw);
gui.add(picture.layers, 'walkable').name('walkable area').onChange(redraw);
gui.add(picture.layers, 'terrain').name('terrain costs').onChange(redraw);
gui.add(names, 'names').name('names').onChange(redraw);
gui.add(picture.layers, 'places').name('places').onChange((on: boolean) => {
  names.places = on;
  redraw();
});
gui.add(picture.layers, 'waypoints').name('beats and waypoints').onChange(redraw);
gui.add(picture.layers, 'routes').name('all routes').onChange(() => void watch());
gui.add(picture.layers, 'circles').name('arrival, slowing').onChange(redraw);
gui.add(picture.layers, 'bodies').name('bodies').onChange(redraw);
gui.add(picture.layers, 'wanted').name('desired velocity').onChange(redraw);
gui.add(picture.layers, 'neighbours').name('neighbours').onChange(() => void watch());
gui.add({ search: () => void showSearch() }, 'search').name('search to its goal');
gui.add({ field: () => void showField() }, 'field').name('flow field to its goal');
gui.add({ clear: () => clearOverlay() }, 'clear').name('clear search and field');

function clearOverlay(): void {
  state.overlay = null;
  picture.touch();
}
/** Where the one looked at is going; or where was clicked last. */
function goal(): { npc: string; to: Point } | null {
  const [npc] = state.inspected();
  const to = npc ? (state.closely.get(npc)?.goal ?? state.clicked?.at) : null;
  if (!npc || !to) hint('Select a character that has a goal.', true);
  return npc && to ? { npc, to } : null;
}
async function showSearch(): Promise<void> {
  const asked = goal();
  if (!asked) return;
  try {
    const found = await link.send<{ bends: Point[]; cells: Point[][]; length_xy: number; expanded: number }>({ search: asked });
    state.overlay = { cells: found.cells, bends: found.bends, arrows: [], size: 1 };
    hint(`${found.length_xy.toFixed(1)} m; ${found.expanded} search nodes expanded, ${found.cells.length} cells or polygons visited.`);
    picture.touch();
  } catch (error) {
    hint((error as Error).message, true);
  }
}
async function showField(): Promise<void> {
  const asked = goal();
  if (!asked) return;
  try {
    const found = await link.send<{ arrows: [number, number, number, number][]; cell: number }>({ field: asked });
    state.overlay = { cells: [], bends: [], arrows: found.arrows, size: found.cell };
    picture.touch();
  } catch (error) {
    hint((error as Error).message, true);
  }
}

// --- keys

const keys: Record<string, () => void> = {
  ' ': () => clock.toggle(),
  '.': () => clock.tick(),
  r: () => clock.restart(),
  '+': () => (document.activeElement === picture.canvas ? picture.zoom(1.25) : clock.faster(1)),
  '-': () => (document.activeElement === picture.canvas ? picture.zoom(0.8) : clock.faster(-1)),
  v: () => setView(!picture.fromAbove),
  '1': () => setTool('select'),
  '2': () => setTool('send'),
  '3': () => setTool('barrier'),
  '4': () => setTool('move'),
  f: () => {
    state.followed = state.followed ? null : (state.inspected()[0] ?? null);
    state.tell('view');
  },
  '/': () => npcList.focus(),
  Home: () => picture.reset(),
  Delete: () => void pointer.removeBarrier(),
  Escape: () => state.select([]),
};
document.addEventListener('keydown', (event) => {
  const target = event.target as HTMLElement;
  const typing = target.matches('input, select, textarea') || target.closest('dialog') !== null;
  if (typing || event.ctrlKey || event.metaKey || event.altKey) return;
  if (event.key === ' ' && target.matches('button, summary, [role=option]')) return;
  const arrow = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[event.key];
  if (arrow && target === picture.canvas) picture.move(arrow[0], arrow[1]);
  else if (keys[event.key]) keys[event.key]();
  else return;
  event.preventDefault();
});

const legend = document.getElementById('legend') as HTMLElement;
legend.append(
  el('span', {}, 'Space pause'),
  el('span', {}, '. one tick'),
  el('span', {}, 'V view'),
  el('span', {}, '1–4 tools'),
  el('span', {}, '/ find'),
  el('span', {}, 'F follow'),
  el('span', {}, 'right button or wheel: move and zoom'),
);

// For the tests, and for whoever looks at it with the browser's own tools.
Object.assign(window, { ambulonPage: { state, picture } });

if (matchMedia('(prefers-color-scheme: dark)').matches) light.click();
setTool('send');
void inspector.start();
void link.run();
