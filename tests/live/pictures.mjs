// Pictures of the live page, of the demo scenes.
//
//   node pictures.mjs FOLDER [path to ambulon]

import { mkdirSync } from 'node:fs';
import { join } from 'node:path';

import { browser, live, onlook, root } from './browser.mjs';

const folder = process.argv[2] ?? 'out';
mkdirSync(folder, { recursive: true });
const chromium = await browser();

/** Shows a scene, lets something be done on its page, and takes a picture. */
async function picture(name, scene, act) {
  const on = await live(join(root, 'demo', scene), process.argv[3]);
  const page = await chromium.page(on.address);
  const server = await onlook(on);
  await act(page, on, server);
  await page.screenshot({ path: join(folder, `${name}.png`) });
  await server.close();
  await page.close();
  await on.end();
  console.log(join(folder, `${name}.png`));
}
const choose = (page, name, options) => page.click(`#names li[data-name="${name}"]`, options);
async function at(server, seconds) {
  while (!server.seen.frame || server.time() < seconds) await new Promise((after) => setTimeout(after, 30));
}

await picture('live', 'quay-level.toml', async (page, on, server) => {
  await choose(page, 'porter');
  await page.locator('#inspector').hover();
  await at(server, 12);
});

await picture('live-aside', 'quay-level.toml', async (page, on, server) => {
  await page.click('#views button:has-text("Side view")');
  await page.click('#views button:has-text("Night")');
  await choose(page, 'courier');
  await at(server, 7.5);
  await on.command({ play: false });
  await page.waitForTimeout(400);
});

await picture('live-search', 'crate-maze.toml', async (page, on, server) => {
  await choose(page, 'cat');
  await page.click('#layers summary');
  await at(server, 4);
  await page.click('#layers button:has-text("search to its goal")');
  await page.waitForTimeout(600);
});

await picture('live-compare', 'follow-and-arrive.toml', async (page, on, server) => {
  await choose(page, 'ambler');
  await page.click('#inspector button:has-text("Compare")');
  await choose(page, 'hurrier');
  await at(server, 9.5);
});

await chromium.close();
