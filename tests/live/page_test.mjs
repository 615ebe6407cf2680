// The page in headless Chromium, driven as its users drive it; what becomes of it is asked of the program itself.
//
//   node page_test.mjs [path to ambulon] [--short]
//
// --short leaves out those in which somebody walks for long and that ask nothing new of the program itself.

import assert from 'node:assert/strict';
import { spawnSync } from 'node:child_process';
import { copyFileSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { connect } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

import { browser, live, onlook, root } from './browser.mjs';

const folder = mkdtempSync(join(tmpdir(), 'ambulon-yard-'));
const scene = join(folder, 'yard.toml');
copyFileSync(join(root, 'tests/live/yard.toml'), scene);

const on = await live(scene, process.argv[2]);
const chromium = await browser();
const page = await chromium.page(on.address);
const server = await onlook(on);

/** Waits until something holds, and says what did not. */
async function until(what, holds, seconds = 20) {
  const end = Date.now() + 1000 * seconds;
  for (;;) {
    if (await holds()) return;
    if (Date.now() > end) assert.fail(`it did not come about that ${what}`);
    await page.waitForTimeout(50);
  }
}
const away = (name, [x, y]) => Math.hypot(server.at(name)[0] - x, server.at(name)[1] - y);
/** Where in the window a point of the ground is seen. */
async function pixel(at) {
  const box = await page.locator('#picture').boundingBox();
  const [x, y] = await page.evaluate((point) => window.ambulonPage.picture.pixel(point), [...at, 0]);
  return [box.x + x, box.y + y];
}
const clickGround = async (at, options) => page.mouse.click(...(await pixel(at)), options);
const choose = (name) => page.click(`#names li[data-name="${name}"]`);
const tool = (name) => page.click(`#tools button:has-text("${name}")`);
const inspector = () => page.locator('#inspector').innerText();

const tests = {
  async 'shows characters that move'() {
    await until('the program has told where everybody is', () => server.seen.frame && server.seen.scene);
    const before = server.at('tea-seller');
    const drawn = () => page.evaluate(() => window.ambulonPage.state.frame.position(1));
    const first = await drawn();
    await until('the tea-seller moves', () => Math.hypot(...server.at('tea-seller').map((v, i) => v - before[i])) > 0.5);
    await until('it moves on the page, too', async () => {
      const then = await drawn();
      return Math.hypot(then[0] - first[0], then[1] - first[1]) > 0.3;
    });
    assert.equal(await page.locator('#title').innerText(), 'The yard');
  },

  async 'sends whom is chosen to where is clicked'() {
    await choose('porter');
    await clickGround([8, 6]);
    await until('the porter is where was clicked', () => away('porter', [8, 6]) < 0.05 && server.speed('porter') === 0);
    await until('the inspector says so', async () => /arrived: it is at its goal/.test(await inspector()));
  },

  async 'sends it on from place to place with Shift'() {
    await page.keyboard.down('Shift');
    await clickGround([6, 4]);
    await clickGround([6, 9]);
    await page.keyboard.up('Shift');
    await until('it comes by the first', () => away('porter', [6, 4]) < 0.1);
    await until('it stands at the second', () => away('porter', [6, 9]) < 0.05);
  },

  async 'lets it follow a pointer that is held'() {
    await page.mouse.move(...(await pixel([8, 9])));
    await page.mouse.down();
    for (let i = 0; i <= 20; ++i) {
      await page.mouse.move(...(await pixel([8, 9 - 0.25 * i])));
      await page.waitForTimeout(60);
    }
    await until('it is where the pointer is', () => away('porter', [8, 4]) < 0.1);
    await server.watch(['porter']);
    await until('it stands there and waits', () => server.look('porter')?.doing === 'standing where the pointer is held');
    await page.mouse.move(...(await pixel([4, 4])));
    await until('it comes along', () => away('porter', [4, 4]) < 0.1);
    await page.mouse.up();
    await until('that is over', () => server.look('porter').order === '');
  },

  async 'chooses in a box, and those chosen keep their places'() {
    await tool('Select');
    await page.mouse.move(...(await pixel([1, 13])));
    await page.mouse.down();
    await page.mouse.move(...(await pixel([4, 10])));
    await page.mouse.move(...(await pixel([9, 2])));
    await page.mouse.up();
    assert.deepEqual(await page.evaluate(() => window.ambulonPage.state.selected), ['porter', 'stray cat']);
    const apart = server.at('porter').map((v, i) => v - server.at('stray cat')[i]);
    await tool('Send');
    await clickGround([6, 6]);
    await until('both stand', () => server.speed('porter') === 0 && server.speed('stray cat') === 0 && away('porter', [4, 4]) > 0.5);
    const now = server.at('porter').map((v, i) => v - server.at('stray cat')[i]);
    assert.ok(Math.hypot(now[0] - apart[0], now[1] - apart[1]) < 0.12, `${apart} became ${now}`);
  },

  async 'goes round a barrier that is put in its way'() {
    await choose('porter');
    await server.watch(['porter']);
    await clickGround([4, 3]);
    await until('it is at its start', () => away('porter', [4, 3]) < 0.05);
    const walked = () => server.look('porter').walked;
    await until('its walk is told', () => server.look('porter').order === '');
    const before = walked();
    await clickGround([16, 3]);
    await tool('Barrier');
    await page.mouse.move(...(await pixel([10, 6])));
    await page.mouse.down();
    await page.waitForTimeout(150);
    await page.mouse.move(...(await pixel([10.5, 3])));
    await page.mouse.move(...(await pixel([11, 0])));
    await page.mouse.up();
    await until('the barrier stands', () => page.evaluate(() => window.ambulonPage.state.ground.barriers.length === 1));
    await until('it is there all the same', () => away('porter', [16, 3]) < 0.05);
    await until('the way is told', () => server.look('porter').order === '');
    assert.ok(walked() - before > 13, `it went round: ${walked() - before} m`);
    assert.ok(walked() - before < 17);
  },

  async 'says why it stands when it is boxed in'() {
    for (const [x, y, length, width] of [[16, 1.5, 3, 0.4], [16, 4.5, 3, 0.4], [14.5, 3, 0.4, 3.4], [17.5, 3, 0.4, 3.4]]) {
      const answer = await on.command({ put: { barrier: `fence ${x} ${y}`, box: [x, y, length, width] } });
      assert.equal(answer.status, 200);
    }
    await tool('Send');
    await choose('porter');
    await clickGround([22, 12]);
    await until('the page says why it stands there', async () =>
      /it is at the reachable spot nearest to \(22\.0., 1[12]\.\d\d\)/.test(await inspector()));
    assert.ok(away('porter', [16, 3]) < 1.5);
    for (const name of ['fence 16 1.5', 'fence 16 4.5', 'fence 14.5 3', 'fence 17.5 3']) await on.command({ take_away: name });
  },

  async 'moves a barrier and takes it away'() {
    await tool('Barrier');
    await page.mouse.move(...(await pixel([10.5, 2])));
    await page.mouse.down();
    await page.waitForTimeout(200);
    await page.mouse.move(...(await pixel([8, 4])), { steps: 5 });
    await page.mouse.up();
    const corner = () => page.evaluate(() => Math.min(...window.ambulonPage.state.ground.barriers[0].corners.map((one) => one[0])));
    await until('it has been moved', async () => Math.abs((await corner()) - 7.5) < 0.1);
    await page.keyboard.press('Delete');
    await until('it is gone', () => page.evaluate(() => window.ambulonPage.state.ground.barriers.length === 0));
    await tool('Send');
  },

  async 'changes its speed by a slider, and the file as one would write it'() {
    await choose('porter');
    const number = page.getByLabel('porter: speed, as a number');
    await number.fill('2.5');
    await number.press('Enter');
    await clickGround([4, 6]);
    await until('it walks at that speed', () => Math.abs(server.speed('porter') - 2.5) < 0.01);
    const slider = page.getByLabel('porter: speed', { exact: true });
    await slider.focus();
    for (let i = 0; i < 3; ++i) await slider.press('ArrowLeft');
    await until('the slider changes it, too', () => server.look('porter').gait.speed < 2.5);
    await number.fill('-3');
    await number.press('Enter');
    await until('what cannot be is refused', async () => /speed is -3; it must lie between/.test(await page.locator('#hint').innerText()));
    await page.click('#changes');
    await until('the changes are shown', async () => /\+ speed/.test(await page.locator('dialog').innerText()));
    const changed = await page.locator('dialog').innerText();
    assert.match(changed, /- speed = 1\.4/);
    assert.match(changed, /\+ speed = 2\.\d/);
    await page.click('dialog button:has-text("Save as a file")');
    const kept = join(folder, 'yard-tuned.toml');
    await until('it is kept', () => {
      try {
        return /speed = 2\.\d[\s\S]*# where tea is sold|# where tea is sold[\s\S]*speed = 2\.\d/.test(readFileSync(kept, 'utf8'));
      } catch {
        return false;
      }
    });
  },

  async 'tunes the orders that the scene gives, those numbers too that the file leaves out'() {
    await choose('tea-seller');
    await page.click('#inspector summary:has-text("Orders")');
    const within = page.getByLabel('patrol: within, as a number');
    await until('what it is by default is shown', async () => (await within.inputValue()) === '0.3');
    await within.fill('1.5');
    await within.press('Enter');
    await until('it is written into the scene', async () => /pause = 1, within = 1\.5 \}/.test((await on.command({ texts: true })).played));
    await on.command({ revert: true });
  },

  async 'takes up a file that was changed on disk, and tells what is wrong with one'() {
    const text = readFileSync(scene, 'utf8');
    const before = server.time();
    writeFileSync(scene, text + '\n[[npc]]\nname = "duck"\nat = [2, 12]\n');
    await until('the duck is there', () => server.seen.scene.npcs.some((one) => one.name === 'duck'));
    assert.ok(server.time() >= before, 'and the others kept going');
    writeFileSync(scene, text.replace('speed = 1.4', 'sped = 1.4'));
    await until('the mistake is told with its place', async () =>
      /yard\.toml:1\d:1: unknown key "sped" in gait \(did you mean "speed"\?\)/.test(await page.locator('#hint').innerText()));
    assert.ok(server.seen.scene.npcs.some((one) => one.name === 'duck'), 'and all stays');
    writeFileSync(scene, text);
    await until('the duck is gone again', () => !server.seen.scene.npcs.some((one) => one.name === 'duck'));
  },

  async 'plays, pauses, ticks and restarts by keys'() {
    await page.locator('#picture').focus();
    await page.keyboard.press('Space');
    await until('it stands still', () => !server.playing());
    const paused = server.time();
    await page.keyboard.press('.');
    await until('one tick is played', () => Math.abs(server.time() - paused - 1 / 60) < 1e-6);
    await page.keyboard.press('r');
    await until('it restarts', () => server.time() < 0.1);
    await page.keyboard.press('Space');
    await until('it plays', () => server.playing() && server.time() > 0.2);
  },

  async 'is the same after it was loaded again'() {
    await page.reload();
    await page.waitForFunction(() => window.ambulonPage.state.frame?.count === 3);
    await choose('porter');
    await clickGround([7, 7]);
    await until('the porter is where was clicked', () => away('porter', [7, 7]) < 0.05);
  },

  async 'finds a character, follows it, compares two, and shows them from aside and by night'() {
    await page.keyboard.press('/');
    await page.keyboard.type('cats');
    await page.keyboard.press('Enter');
    assert.deepEqual(await page.evaluate(() => window.ambulonPage.state.selected), ['stray cat']);
    await page.fill('#find', '');
    await page.click('#inspector button:has-text("Compare")');
    await choose('porter');
    await until('both are told of', async () => {
      const text = await inspector();
      return text.includes('stray cat') && text.includes('porter') && (text.match(/m\/s/g) ?? []).length >= 2;
    });
    assert.equal(await page.locator('#inspector .two, #inspector.two').count() > 0, true);
    await page.click('#inspector .other button:has-text("Unpin")');
    await page.click('#views button:has-text("Side view")');
    await page.click('#views button:has-text("Night")');
    await page.waitForTimeout(300);
    await choose('porter');
    await clickGround([5, 9]); // from aside the ray is another one
    await until('it is where was clicked from aside', () => away('porter', [5, 9]) < 0.05);
    await page.click('#views button:has-text("Top view")');
    await page.click('#views button:has-text("Day")');
  },

  async 'drags a place, and whoever goes there goes elsewhere'() {
    await tool('Move');
    await page.mouse.move(...(await pixel([20, 4])));
    await page.mouse.down();
    await page.mouse.move(...(await pixel([18, 6])), { steps: 8 });
    await page.mouse.up();
    await server.watch(['porter', 'tea-seller']);
    await until('the tea-seller goes there', () => away('tea-seller', [18, 6]) < 0.4, 30);
    await tool('Send');
  },

  async 'shows the same on two pages, and one that goes away harms nobody'() {
    const other = await chromium.page(on.address);
    await other.waitForFunction(() => window.ambulonPage.state.frame?.count === 3);
    await other.click('#clock button:has-text("Pause")');
    await until('the first page knows', async () => (await page.locator('#clock button').first().innerText()) === 'Play');
    await other.close();
    await page.click('#clock button:has-text("Play")');
    await until('it plays on', () => server.playing());
  },

  async 'holds up nobody for a page that does not read'() {
    const { hostname, port } = new URL(on.origin);
    const lazy = connect(Number(port), hostname);
    lazy.on('error', () => {});
    lazy.write(`GET /stream HTTP/1.1\r\nHost: ${hostname}:${port}\r\nX-Token: ${on.headers['X-Token']}\r\n\r\n`);
    lazy.pause();
    const from = server.seen.frames;
    const began = Date.now();
    await page.waitForTimeout(2000);
    const rate = (server.seen.frames - from) / ((Date.now() - began) / 1000);
    assert.ok(rate > 15, `${rate} frames a second`);
    lazy.destroy();
  },

  async 'refuses foreign origins, names, missing tokens and broken commands, and goes on'() {
    const suspend = { suspend: 'porter' };
    assert.equal((await on.command(suspend, { Origin: 'http://evil.example' })).status, 403);
    assert.equal((await on.command(suspend, { 'X-Token': 'wrong' })).status, 403);
    assert.equal((await fetch(on.origin)).status, 403);
    const named = await new Promise((answered) => {
      const { hostname, port } = new URL(on.origin);
      const socket = connect(Number(port), hostname, () =>
        socket.write(`GET /schema HTTP/1.1\r\nHost: evil.example\r\nX-Token: ${on.headers['X-Token']}\r\nConnection: close\r\n\r\n`));
      socket.once('data', (text) => answered(String(text).split('\r\n')[0]));
    });
    assert.match(named, / 403 /);
    const broken = await on.command('{"suspend":');
    assert.equal(broken.status, 400);
    assert.equal(broken.why, 'a command is a JSON object');
    assert.match((await on.command({ suspend: 'portr' })).why, /did you mean "porter"/);
    assert.equal((await on.command(`{"suspend":"${'x'.repeat(100_000)}"}`)).status, 413);
    if (process.argv[3] === '--short') return; // with sanitizers a loaded machine answers fewer commands than the limit
    const heard = new Set();
    const end = Date.now() + 20_000;
    const worker = async () => {
      while (!heard.has(429) && Date.now() < end)
        heard.add(await on.command({ play: true }).then((one) => one.status, () => 0)); // 0: the connection was closed
    };
    await Promise.all(Array.from({ length: 24 }, worker));
    assert.ok(heard.has(200), 'the first are answered');
    assert.ok(heard.has(429), 'too many at once are refused');
    await page.waitForTimeout(2500);
    assert.equal((await on.command({ play: true })).status, 200);
    assert.equal(server.playing(), true);
  },

  async 'leaves the port of another one alone'() {
    const tool = process.argv[2] ?? join(root, 'build/bin/ambulon');
    const second = spawnSync(tool, ['live', scene, '--port', new URL(on.origin).port], { encoding: 'utf8' });
    assert.equal(second.status, 2);
    assert.match(second.stderr, /port \d+ of 127\.0\.0\.1 cannot be listened on; is it taken\?/);
  },

  async 'fits small windows and large letters'() {
    for (const [width, height] of [[1024, 640], [640, 400], [1920, 1080]]) {
      await page.setViewportSize({ width, height });
      await page.waitForTimeout(150);
      const wide = await page.evaluate(() => document.documentElement.scrollWidth);
      assert.ok(wide <= width, `${width}: ${wide} pixels wide`);
      const picture = await page.locator('#picture').boundingBox();
      assert.ok(picture.width > 300 && picture.height > 200, `the picture has ${picture.width} by ${picture.height}`);
    }
    await page.setViewportSize({ width: 1280, height: 800 });
  },

  async 'is reached by the Tab key from part to part'() {
    await page.click('#title'); // from there on
    const met = [];
    for (let i = 0; i < 40; ++i) {
      await page.keyboard.press('Tab');
      met.push(await page.evaluate(() => {
        const at = document.activeElement;
        return ['tools', 'views', 'npcs', 'stage', 'inspector', 'clock'].find((id) => at?.closest(`#${id}`)) ?? '';
      }));
    }
    const order = met.filter((part, i) => part && part !== met[i - 1]);
    assert.deepEqual(order.slice(0, 5), ['tools', 'views', 'npcs', 'stage', 'inspector']);
  },
};

const long = [
  'sends it on from place to place with Shift',
  'lets it follow a pointer that is held',
  'finds a character, follows it, compares two, and shows them from aside and by night',
  'fits small windows and large letters',
  'is reached by the Tab key from part to part',
];
for (const name of long) assert.ok(tests[name], name);

let failed = 0;
for (const [name, test] of Object.entries(tests)) {
  if (process.argv[3] === '--short' && long.includes(name)) continue;
  const began = Date.now();
  try {
    await test();
    console.log(`ok   ${name} (${((Date.now() - began) / 1000).toFixed(1)} s)`);
  } catch (error) {
    ++failed;
    console.log(`FAIL ${name}\n     ${error.stack}`);
  }
}
const wrong = page.errors.filter((text) => !/status of 4\d\d/.test(text)); // those were asked for
if (wrong.length > 0) {
  ++failed;
  console.log(`FAIL the page had errors:\n     ${wrong.join('\n     ')}`);
}
await server.close();
await chromium.close();
const code = await on.end();
if (code !== 0) {
  ++failed;
  console.log(`FAIL the program ended with ${code}: ${on.remarks()}`);
}
console.log(on.remarks());
rmSync(folder, { recursive: true, force: true });
process.exit(failed === 0 ? 0 : 1);
