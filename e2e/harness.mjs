// Starts the program and a browser for the tests; both go with the test.
import { spawn } from "node:child_process";
import { readFileSync, rmSync } from "node:fs";
import { copyFile, mkdtemp, rm } from "node:fs/promises";
import { createServer } from "node:net";
import { tmpdir } from "node:os";
import { join, resolve } from "node:path";
import { chromium } from "playwright-core";

export const program = process.env.PROOF_BIN ?? resolve(import.meta.dirname, "../target/debug/proof");
const axeSource = readFileSync(resolve(import.meta.dirname, "node_modules/axe-core/axe.min.js"), "utf8");

export const freePort = () =>
  new Promise((done, fail) => {
    const server = createServer();
    server.once("error", fail);
    server.listen(0, "127.0.0.1", () => {
      const { port } = server.address();
      server.close(() => done(port));
    });
  });

let seed = null;
/** The demo's database, made once by the program itself; each server gets a copy, which it serves as it is. */
async function demoSeed() {
  const made = await serve("demo", await mkdtemp(join(tmpdir(), "proof-e2e-seed-")));
  process.once("exit", () => rmSync(made.folder, { recursive: true, force: true }));
  await made.end();
  return made.db;
}

/** Starts `proof demo`, or `proof serve` with an empty database. */
export async function start(mode) {
  const folder = await mkdtemp(join(tmpdir(), "proof-e2e-"));
  if (mode === "demo") await copyFile(await (seed ??= demoSeed()), join(folder, "test.db"));
  return serve(mode, folder);
}

/** Starts the program on the database of a folder. */
async function serve(mode, folder) {
  const port = await freePort();
  const db = join(folder, "test.db");
  const child = spawn(program, [mode, "--db", db, "--listen", `127.0.0.1:${port}`], { stdio: ["ignore", "ignore", process.env.PROOF_LOG ? "inherit" : "ignore"] });
  const base = `http://127.0.0.1:${port}`;
  for (let tries = 0; ; tries += 1) {
    const answered = await fetch(`${base}/healthz`).then((r) => r.ok, () => false);
    if (answered) break;
    if (tries > 200 || child.exitCode !== null) throw new Error(`the program did not start: ${program}`);
    await new Promise((go) => setTimeout(go, 50));
  }
  /** Stops the program as a person would; the database stays. */
  async function end() {
    const ended = new Promise((done) => child.once("exit", (code) => done(code)));
    child.kill("SIGTERM");
    return ended;
  }
  return {
    base,
    db,
    folder,
    end,
    async stop() {
      const code = await end();
      await rm(folder, { recursive: true, force: true });
      return code;
    },
  };
}

/** Opens the signing keys that the tests make. */
export const PASSPHRASE = "rope walks";

/** A headless browser, with the background network switched off. The shell has no windows to draw: a third quicker. Letters
 * are set as on a screen, not hinted to whole pixels as the shell would by itself. */
export const browser = () =>
  chromium.launch({
    executablePath: process.env.CHROMIUM ?? "/usr/bin/chromium-headless-shell",
    args: [
      "--no-sandbox",
      "--disable-gpu",
      "--font-render-hinting=none",
      "--disable-quic",
      "--no-first-run",
      "--disable-background-networking",
      "--disable-component-update",
      "--disable-sync",
    ],
  });

/** Violations of axe on the page, a line each. */
export async function violations(page) {
  await page.evaluate(axeSource);
  const result = await page.evaluate(() =>
    globalThis.axe.run(document, { runOnly: ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice"] }),
  );
  return result.violations.map((v) => `${v.id}: ${v.help} (${v.nodes.slice(0, 3).map((n) => n.target.join(" ")).join("; ")})`);
}

/** Fails on anything that the page's console or the network says is wrong. */
export function watch(page, base) {
  const wrong = [];
  page.on("pageerror", (error) => wrong.push(`script: ${error.message}`));
  page.on("console", (message) => {
    const expected = /status of (404|409|422)/.test(message.text());
    if (message.type() === "error" && !expected) wrong.push(`console: ${message.text()}`);
  });
  page.on("request", (request) => {
    if (!request.url().startsWith(base) && !request.url().startsWith("data:")) wrong.push(`asked elsewhere: ${request.url()}`);
  });
  return wrong;
}

/** A browser of somebody who works at a job: its page, and what went wrong on it. The card of the day is put off. */
export async function visitor(chrome, base, job, options = {}) {
  const context = await chrome.newContext(options);
  await context.addCookies([
    { name: "writer", value: "Idris+Kell", url: base },
    { name: "not_today", value: putOff(job), url: base },
  ]);
  const page = await context.newPage();
  return { page, wrong: watch(page, base) };
}

/** Types into the entry and stores it with Enter; waits for the step to change or an error to show. */
export async function read(page, text) {
  const step = () => page.locator("#entry input[name=step]").inputValue({ timeout: 2000 }).catch(() => "");
  const id = () => page.locator("#entry input[name=id]").inputValue({ timeout: 2000 }).catch(() => "");
  const before = [await step(), await id()];
  await page.waitForFunction(() => document.activeElement?.id === "typed");
  await page.keyboard.type(text);
  await page.keyboard.press("Enter");
  await page.waitForFunction(
    ([slug, id]) => {
      const form = document.getElementById("entry");
      if (!form) return true;
      return form.elements.step.value !== slug || form.elements.id.value !== id;
    },
    before,
    { timeout: 5000 },
  );
}

/** The demo's jobs by reference, with paths to their boards and (by way) circuits. */
export async function demoJobs(base) {
  const list = await (await fetch(base)).text();
  const jobs = {};
  for (const [, id, reference] of list.matchAll(/\/jobs\/([0-9a-f-]{36})">(G-\d+)</g)) {
    const { job } = await (await fetch(`${base}/jobs/${id}/job.json`)).json();
    const way = Object.fromEntries(job.installation.circuits.map((c) => [c.way, `/jobs/${id}/circuits/${c.id}`]));
    jobs[reference] = { id, path: `/jobs/${id}`, way, board: `/jobs/${id}/boards/${job.installation.boards[0].id}` };
  }
  return jobs;
}

/** The cookie by which a person has put the card of the day off for the job of a path; days as the log counts them. */
export const putOff = (path) => `${/^\/jobs\/([0-9a-f-]{36})/.exec(path)?.[1] ?? "none"}+${new Date().toISOString().slice(0, 10)}`;

/** On a phone isolation goes step by step: goes on to the step that holds a field or a button. */
export async function onStep(page, locator) {
  for (let step = 0; step < 4 && !(await locator.isVisible()); step += 1) {
    await page.locator(".isolating > .here").getByRole("button", { name: "Next" }).click();
  }
  return locator;
}

/** What the form of a page was made from, for who sends it without the page; nothing where its form has none. */
export async function madeFrom(url) {
  if (!/\/(edit|particulars|inspection)$|\/boards\/[0-9a-f-]{36}$/.test(url)) return {};
  const revision = /name="revision"\s+value="(\d+)"/.exec(await (await fetch(url)).text())?.[1];
  return revision ? { revision } : {};
}

/** Names as spoken to whoever isolated it, where the page asks for another person's word. */
export async function spokenTo(page, name = "Idris Kell") {
  const word = page.locator("input[name=word]").first();
  if (await word.isVisible().catch(() => false)) await word.fill(name);
}
