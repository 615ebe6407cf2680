// A headless Chromium and a page of `ambulon live`, for the tests and for the pictures in the docs.

import { spawn } from 'node:child_process';
import { createRequire } from 'node:module';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

export const root = join(import.meta.dirname ?? new URL('.', import.meta.url).pathname, '../..');
const require = createRequire(join(root, 'src/live/page/package.json'));
const { chromium } = require('playwright-core');

/** Starts the program on a scene; answers with its address, and with how to end it. */
export async function live(scene, tool = join(root, 'build/bin/ambulon')) {
  const program = spawn(tool, ['live', scene, '--port', '0', '--json'], { stdio: ['ignore', 'pipe', 'pipe'] });
  let remarks = '';
  program.stderr.on('data', (text) => (remarks += text));
  const address = await new Promise((found, failed) => {
    program.stdout.once('data', (text) => found(JSON.parse(String(text)).address));
    program.once('exit', (code) => failed(new Error(`it ended with ${code}: ${remarks}`)));
  });
  const url = new URL(address);
  const headers = { 'X-Token': url.searchParams.get('token'), 'Content-Type': 'application/json' };
  return {
    address,
    origin: url.origin,
    headers,
    program,
    remarks: () => remarks,
    /** A command, as a page sends it: the status and what was answered. */
    async command(body, more = {}) {
      const answer = await fetch(`${url.origin}/command`, {
        method: 'POST',
        headers: { ...headers, ...more },
        body: typeof body === 'string' ? body : JSON.stringify(body),
      });
      return { status: answer.status, ...(await answer.json()) };
    },
    /** Ends it as Ctrl-C does; answers with its exit code. */
    end() {
      if (program.exitCode !== null) return Promise.resolve(program.exitCode);
      program.kill('SIGINT');
      return new Promise((ended) => program.once('exit', (code) => ended(code)));
    },
  };
}

export async function browser() {
  const profile = mkdtempSync(join(tmpdir(), 'ambulon-page-'));
  const context = await chromium.launchPersistentContext(profile, {
    executablePath: '/usr/bin/chromium',
    headless: true,
    viewport: { width: 1280, height: 800 },
    colorScheme: 'light',
    args: [
      '--no-sandbox',
      '--disable-quic',
      '--no-first-run',
      '--disable-background-networking',
      '--disable-component-update',
      '--disable-sync',
      '--use-gl=angle',
      '--use-angle=swiftshader',
      '--enable-unsafe-swiftshader',
    ],
  });
  return {
    context,
    /** A page that shows what it was told; what goes wrong on it is kept in `errors`. */
    async page(address) {
      const page = await context.newPage();
      page.errors = [];
      page.on('pageerror', (error) => page.errors.push(String(error)));
      page.on('console', (line) => line.type() === 'error' && page.errors.push(line.text()));
      await page.goto(address);
      await page.waitForFunction(() => document.querySelectorAll('#names li').length > 0);
      return page;
    },
    async close() {
      await context.close();
      rmSync(profile, { recursive: true, force: true });
    },
  };
}

/** Another onlooker, without a browser: what the program itself says of where everybody is. */
export async function onlook(on) {
  const answer = await fetch(`${on.origin}/stream`, { headers: on.headers });
  const reader = answer.body.getReader();
  const seen = { page: 0, scene: null, frame: null, closely: new Map(), notes: [], frames: 0, bytes: 0 };
  (async () => {
    let have = new Uint8Array(0);
    for (;;) {
      const { done, value } = await reader.read();
      if (done) return;
      seen.bytes += value.length;
      const all = new Uint8Array(have.length + value.length);
      all.set(have);
      all.set(value, have.length);
      let at = 0;
      const view = new DataView(all.buffer);
      while (all.length - at >= 5) {
        const size = view.getUint32(at, true);
        if (all.length - at < 5 + size) break;
        const body = all.subarray(at + 5, at + 5 + size);
        if (view.getUint8(at + 4) === 1) {
          seen.frame = new DataView(all.slice(at + 5, at + 5 + size).buffer);
          ++seen.frames;
        } else {
          const message = JSON.parse(new TextDecoder().decode(body));
          if (message.type === 'hello') seen.page = message.page;
          if (message.type === 'scene') seen.scene = message;
          if (message.type === 'closely') for (const look of message.npcs) seen.closely.set(look.name, look);
          if (message.type === 'journal') seen.notes.push(...message.notes);
        }
        at += 5 + size;
      }
      have = all.slice(at);
    }
  })().catch(() => {});
  const index = (name) => seen.scene.npcs.findIndex((one) => one.name === name);
  return {
    seen,
    at: (name) => [0, 4, 8].map((offset) => seen.frame.getFloat32(32 + 20 * index(name) + offset, true)),
    speed: (name) => seen.frame.getUint16(32 + 20 * index(name) + 14, true) / 1000,
    time: () => seen.frame.getFloat64(0, true),
    playing: () => seen.frame.getUint32(20, true) === 1,
    look: (name) => seen.closely.get(name),
    watch: (npcs) => on.command({ watch: { npcs }, page: seen.page }),
    close: () => reader.cancel().catch(() => {}),
  };
}
