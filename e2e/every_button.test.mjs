// Every page of an empty and of the demo database as it comes: every link followed once, every button
// pressed once, on a laptop and on a phone, with scripts and without. What is refused stores nothing
// and keeps what was typed; what is taken is stored once, however often it is sent; Pass stores pass.
import assert from "node:assert/strict";
import { describe, test } from "node:test";
import { browser, putOff, start, watch } from "./harness.mjs";

const LAPTOP = { width: 1280, height: 800 };
const PHONE = { width: 390, height: 844 };

/** Forms that save a whole description: saved as it is, they change nothing. */
const AS_IT_IS = /\/(particulars|inspection|edit|firm|firm\/rules|firm\/instruments\/:id|boards\/:id)$/;
/** Forms that only look, or only set how pages look in this browser. */
const ONLY_LOOKS = /\/(look|verify|circuits-in|sheet|run\/order|firm\/key\/export|practice\/questions)$/;

const pattern = (path) => path.replace(/[0-9a-f]{8}-[0-9a-f-]{27}/g, ":id").replace(/\?.*/, "");
const plain = (html) => html.replace(/<[^>]*>/g, "").replace(/&[a-z]+;|&#\d+;/g, " ").replace(/\d+/g, "#").replace(/\s+/g, " ").trim();
const attribute = (tag, name) => new RegExp(`\\s${name}="([^"]*)"`).exec(tag)?.[1]?.replace(/&#38;|&amp;/g, "&") ?? "";

/** The buttons of that card itself. */
const ofTheDay = (at) => at.name === "found" && /\/run\/answer$/.test(at.action);

/** Follows every link from the list of jobs on; the pages that are HTML, by address. */
async function everyPage(base) {
  const pages = new Map(), waiting = ["/"], known = new Set(waiting), wrong = [];
  while (waiting.length) {
    const path = waiting.shift();
    const answer = await fetch(base + path, { headers: { cookie: `not_today=${putOff(path)}` } });
    if (answer.status !== 200) wrong.push(`${path}: ${answer.status}`);
    if (!/text\/html/.test(answer.headers.get("content-type") ?? "")) { await answer.arrayBuffer(); continue; }
    // The run has two faces: with the card of the day, and with it put off.
    const today = /\/run$/.test(path) ? await (await fetch(base + path)).text() : "";
    const html = (await answer.text()) + today;
    pages.set(path, html);
    for (const [, href] of html.matchAll(/<a\s[^>]*?href="([^"]*)"/g)) {
      const to = new URL(href.replace(/&#38;|&amp;/g, "&"), base + path);
      const next = to.pathname + to.search;
      if (to.origin !== base || known.has(next)) continue;
      known.add(next);
      waiting.push(next);
    }
  }
  return { pages, wrong };
}

/** Every button that is another than those seen, with the pages that have it. */
function everyButton(pages) {
  const buttons = new Map();
  for (const [path, html] of pages) {
    for (const [, open, inside] of html.matchAll(/<form\b([^>]*)>([\s\S]*?)<\/form>/g)) {
      const action = attribute(open, "action") || path;
      for (const [, tag, label] of inside.matchAll(/<button\b([^>]*)>([\s\S]*?)<\/button>/g)) {
        if (/type="button"|formmethod="dialog"/.test(tag) || /method="dialog"/.test(open)) continue;
        const key = [pattern(path), pattern(attribute(tag, "formaction") || action), attribute(tag, "name"), attribute(tag, "value").replace(/[0-9a-f-]{36}/g, ":id"), plain(label)].join(" | ");
        const at = { path, action, name: attribute(tag, "name"), value: attribute(tag, "value"), label: plain(label) };
        buttons.set(key, [...(buttons.get(key) ?? []), at]);
      }
    }
  }
  return buttons;
}

/** What a database as it comes has, asked once: its ids are the same each time. */
const crawled = new Map();
async function crawl(mode, base) {
  if (!crawled.has(mode)) {
    const { pages, wrong } = await everyPage(base);
    crawled.set(mode, { links: pages.size, buttons: everyButton(pages), wrong });
  }
  return crawled.get(mode);
}

/** All that is stored, as far as it can be read. */
async function stored(base, path) {
  const job = /^\/jobs\/[0-9a-f-]{36}/.exec(path)?.[0];
  const asked = /practice|\/bench$/.test(path) ? ["/practice"] : !job ? ["/", "/firm", "/firm/key"] : /certificate/.test(path) ? [`${job}/job.json`, `${job}/certificate`] : [`${job}/job.json`];
  const texts = await Promise.all(asked.map(async (one) => (await fetch(base + one)).text()));
  return texts.map((text) => text.replace(/name="(id|sent)" value="[^"]*"/g, "")).join("\n");
}

const readings = (text) => { try { return JSON.parse(text.split("\n</")[0].replace(/\n<!doctype[\s\S]*/, "")).job.readings; } catch { return []; } };

/** Presses one button on its page; what is wrong with what follows. */
async function press(page, base, key, at, counts) {
  const problems = [];
  await page.context().addCookies([{ name: "not_today", value: ofTheDay(at) ? "never" : putOff(at.path), url: base }]);
  await page.goto(base + at.path, { waitUntil: "domcontentloaded" });
  await page.evaluate(() => document.querySelectorAll("details").forEach((one) => { one.open = true; }));
  const handle = await page.evaluateHandle(({ action, name, value, label }) => {
    const words = (node) => node.textContent.replace(/\d+/g, "#").replace(/\s+/g, " ").trim();
    for (const form of document.forms) {
      if ((form.getAttribute("action") || location.pathname + location.search) !== action) continue;
      for (const one of form.querySelectorAll("button")) {
        if ((one.name || "") === name && (one.getAttribute("value") ?? "") === value && words(one) === label) return one;
      }
    }
    return null;
  }, at);
  const button = handle.asElement();
  if (!button) return null;
  if (!(await button.isVisible())) { counts.hidden.add(key); return problems; }
  const form = await button.evaluate((one) => ({
    valid: one.formNoValidate || one.form.checkValidity(),
    file: Boolean(one.form.querySelector("input[type=file]")),
    get: (one.getAttribute("formmethod") || one.form.getAttribute("method") || "get").toLowerCase() === "get",
    typed: [...one.form.elements].filter((field) => field.name && field.type !== "hidden" && field.type !== "file" && field.tagName !== "BUTTON")
      .map((field) => [field.name, field.type === "checkbox" || field.type === "radio" ? `${field.value} ${field.checked}` : field.value]),
  }));
  const earlier = await stored(base, at.path);
  const isPost = (one) => one.request().method() === "POST";
  const answered = form.valid && !form.get ? page.waitForResponse(isPost, { timeout: 8000 }).catch(() => null) : Promise.resolve(null);
  await button.click({ noWaitAfter: false, timeout: 30_000 }).catch((error) => problems.push(`${key}: not pressed: ${error.message.split("\n").slice(0, 12).join(" ")}`));
  const answer = await answered;
  if (form.get) { counts.get += 1; return problems; }
  if (!form.valid) {
    counts.held += 1;
    if ((await stored(base, at.path)) !== earlier) problems.push(`${key}: stored, though the browser held it`);
    return problems;
  }
  if (!answer) return [...problems, `${key}: nothing was sent`];
  const status = answer.status(), to = pattern(new URL(answer.url()).pathname);
  await page.waitForLoadState();
  const later = await stored(base, at.path);
  if (status >= 500 || status === 404 || status === 400) problems.push(`${key}: ${status}`);
  else if (status >= 400) {
    counts.refused += 1;
    if (later !== earlier) problems.push(`${key}: ${status}, and something was stored`);
    const shown = await page.evaluate((action) => {
      const again = [...document.forms].filter((one) => (one.getAttribute("action") || "") === action);
      return again.flatMap((one) => [...one.elements].map((field) => [field.name, field.type === "checkbox" || field.type === "radio" ? `${field.value} ${field.checked}` : field.value]));
    }, at.action);
    const lost = shown.length === 0 ? [] : form.typed.filter(([name, value]) => value !== "" && !/ false$/.test(value) && !shown.some(([n, v]) => n === name && v === value));
    if (lost.length) problems.push(`${key}: ${status}, and ${lost.map(([name, value]) => `${name}=${value}`)} is lost`);
    const words = await page.evaluate(() => document.body.innerText);
    if (words.length < 40) problems.push(`${key}: ${status} without words`);
  } else {
    counts.taken += 1;
    const same = later === earlier;
    // Put off is remembered in this browser; a name for every signature is put into the form, and signed by no one yet.
    const here = (at.value === "later" && ofTheDay(at)) || at.name === "fill";
    if (same && !here && !AS_IT_IS.test(to) && !ONLY_LOOKS.test(to)) problems.push(`${key}: ${status}, and nothing was stored`);
    if (/^(pass|fail)$/.test(at.value) && /outcome/.test(at.name)) {
      const [was, is] = [readings(earlier), readings(later)];
      if (is.length !== was.length + 1 || is.at(-1).value.is !== at.value) problems.push(`${key}: ${at.value} stored ${is.length - was.length} readings, ${is.at(-1)?.value.is}`);
      counts.outcomes.add(at.value);
    }
    const body = answer.request().postData();
    if (body && /application\/x-www-form-urlencoded/.test(answer.request().headers()["content-type"] ?? "") && /(^|&)(sent|id)=[0-9a-f-]{36}/.test(body)) {
      const again = await fetch(answer.url(), { method: "POST", redirect: "manual", body, headers: { "content-type": "application/x-www-form-urlencoded", origin: base } });
      await again.arrayBuffer();
      if (again.status >= 500) problems.push(`${key}: sent twice: ${again.status}`);
      if ((await stored(base, at.path)) !== later) problems.push(`${key}: sent twice, stored twice`);
      counts.twice += 1;
    }
  }
  return problems;
}

class Standstill extends Error {}

/** What comes of a promise, unless the browser stands still. */
function within(ms, promise) {
  let timer;
  const over = new Promise((_, fail) => { timer = setTimeout(() => fail(new Standstill()), ms); });
  return Promise.race([promise, over]).finally(() => clearTimeout(timer));
}

/** A round in a browser of its own; one that stands still, as it does now and then, is begun anew once. */
async function rounds(mode, how) {
  for (let again = false; ; again = true) {
    const chrome = await browser();
    try {
      return await round(chrome, mode, how);
    } catch (error) {
      if (again || !(error instanceof Standstill)) throw error;
    } finally {
      await within(10_000, chrome.close()).catch(() => {});
    }
  }
}

/** Goes round all pages of a database and presses every button; counts of what followed. */
async function round(chrome, mode, { viewport, scripts, writer }) {
  let server = await start(mode);
  const counts = { links: 0, buttons: 0, get: 0, held: 0, refused: 0, taken: 0, twice: 0, hidden: new Set(), outcomes: new Set() };
  try {
    const { links, buttons, wrong: broken } = await crawl(mode, server.base);
    const wrong = [...broken];
    Object.assign(counts, { links, buttons: buttons.size });
    const open = async (base) => {
      const context = await chrome.newContext({ viewport, javaScriptEnabled: scripts, hasTouch: viewport === PHONE, isMobile: viewport === PHONE, acceptDownloads: true });
      if (writer) await context.addCookies([{ name: "writer", value: encodeURIComponent(writer), url: base }]);
      const page = await context.newPage();
      page.on("dialog", (dialog) => dialog.accept());
      const heard = watch(page, base);
      return { context, page, heard };
    };
    let { context, page, heard } = await within(60_000, open(server.base));
    for (const [key, places] of buttons) {
      // What an earlier button took away is pressed in a database as it came.
      for (const fresh of [false, true]) {
        if (fresh) {
          wrong.push(...heard);
          await within(30_000, context.close());
          await server.stop();
          server = await start(mode);
          ({ context, page, heard } = await within(60_000, open(server.base)));
        }
        let done = null;
        for (const at of places.slice(0, fresh ? 1 : 3)) {
          done = await within(60_000, press(page, server.base, key, at, counts));
          if (done) break;
        }
        if (done) { wrong.push(...done); break; }
        if (fresh) wrong.push(`${key}: is not there`);
      }
    }
    wrong.push(...heard);
    await within(30_000, context.close());
    return { wrong, counts };
  } finally {
    await server.stop();
  }
}

const tell = (t, counts) => t.diagnostic(Object.entries(counts).map(([name, count]) => `${name} ${count instanceof Set ? count.size : count}`).join(", "));

describe("every button", { concurrency: 2 }, () => {
  for (const mode of ["serve", "demo"]) {
    for (const [name, viewport] of [["laptop", LAPTOP], ["phone", PHONE]]) {
      // The large round is walked once on each screen, once with scripts and once without.
      for (const scripts of mode === "demo" ? [viewport === LAPTOP] : [true, false]) {
        test(`${mode === "serve" ? "an empty" : "the demo"} database, ${name}, scripts ${scripts ? "on" : "off"}`, async (t) => {
          const { wrong, counts } = await rounds(mode, { viewport, scripts, writer: "Maud Ferrow" });
          tell(t, counts);
          assert.deepEqual(wrong, []);
          if (mode === "demo") {
            assert.deepEqual([...counts.outcomes].sort(), ["fail", "pass"], "both outcome buttons were taken");
            assert.ok(counts.taken > 20 && counts.refused > 10 && counts.twice > 10, "the round says something");
          }
        });
      }
    }
  }

  test("the demo database by nobody: what wants a name is refused and keeps what was typed", async (t) => {
    const { wrong, counts } = await rounds("demo", { viewport: LAPTOP, scripts: false, writer: "" });
    tell(t, counts);
    assert.deepEqual(wrong, []);
  });
});
