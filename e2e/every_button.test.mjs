// Every page of an empty and of the demo database as it comes: every link followed once, every button
// pressed once, on a laptop and on a phone, with scripts and without. What is refused stores nothing
// and keeps what was typed; what is taken is stored once, however often it is sent; Pass stores pass.
import assert from "node:assert/strict";
import { stat } from "node:fs/promises";
import { describe, test } from "node:test";
import { load } from "cheerio";
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
        const at = { path, action, name: attribute(tag, "name"), value: attribute(tag, "value"), label: plain(label), size: html.length };
        buttons.set(key, [...(buttons.get(key) ?? []), at]);
      }
    }
  }
  return buttons;
}

/** Of all buttons those that a browser presses in the check: of each action one, on the smallest page that has it. Sent
 * without a browser all are pressed; in `./check long` the browser presses all too. */
function inTheCheck(buttons) {
  if (process.env.PROOF_LONG) return buttons;
  const of = new Map();
  for (const [key, places] of buttons) {
    const [, action, name, value] = key.split(" | ");
    const act = `${action} ${name} ${value}`;
    const size = Math.min(...places.map((at) => at.size));
    if (!of.has(act) || size < of.get(act).size) of.set(act, { key, places, size });
  }
  return new Map([...of.values()].map(({ key, places }) => [key, places]));
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

/** Changes with whatever is committed to a database: the size and the time of its file and of the log beside it. */
async function committed(db) {
  const of = (file) => stat(file, { bigint: true }).then((at) => `${at.size} ${at.mtimeNs}`, () => "none");
  return `${await of(db)}, ${await of(`${db}-wal`)}`;
}

/** All that is stored, as far as it can be read; asked again only where something was committed. */
async function stored(server, path) {
  const job = /^\/jobs\/[0-9a-f-]{36}/.exec(path)?.[0];
  const asked = /practice|\/bench$/.test(path) ? ["/practice"] : !job ? ["/", "/firm", "/firm/key"] : /certificate/.test(path) ? [`${job}/job.json`, `${job}/certificate`] : [`${job}/job.json`];
  const at = await committed(server.db), known = server.known ??= new Map(), key = asked.join(" ");
  if (known.get(key)?.at !== at) {
    const texts = await Promise.all(asked.map(async (one) => (await fetch(server.base + one)).text()));
    known.set(key, { at, text: texts.map((text) => text.replace(/name="(id|sent)" value="[^"]*"/g, "")).join("\n") });
  }
  return known.get(key).text;
}

const readings = (text) => { try { return JSON.parse(text.split("\n</")[0].replace(/\n<!doctype[\s\S]*/, "")).job.readings; } catch { return []; } };

/** What a button press is judged by: what was typed, what came of it, what is stored before and after, the forms shown then. */
async function judge(server, key, at, counts, { typed, status, to, earlier, shown, words, again }) {
  const problems = [], later = await stored(server, at.path);
  if (status >= 500 || status === 404 || status === 400) problems.push(`${key}: ${status}`);
  else if (status >= 400) {
    counts.refused += 1;
    if (later !== earlier) problems.push(`${key}: ${status}, and something was stored`);
    const fields = await shown(), kept = ([name, value]) => fields.some(([n, v]) => n === name && v === value);
    const lost = fields.length === 0 ? [] : typed.filter((field) => field[1] !== "" && !/ false$/.test(field[1]) && !kept(field));
    if (lost.length) problems.push(`${key}: ${status}, and ${lost.map(([name, value]) => `${name}=${value}`)} is lost`);
    if ((await words()).length < 40) problems.push(`${key}: ${status} without words`);
  } else {
    counts.taken += 1;
    // Put off is remembered in this browser; a name for every signature is put into the form, and signed by no one yet.
    const here = (at.value === "later" && ofTheDay(at)) || at.name === "fill";
    if (later === earlier && !here && !AS_IT_IS.test(to) && !ONLY_LOOKS.test(to)) problems.push(`${key}: ${status}, and nothing was stored`);
    if (/^(pass|fail)$/.test(at.value) && /outcome/.test(at.name)) {
      const [was, is] = [readings(earlier), readings(later)];
      if (is.length !== was.length + 1 || is.at(-1).value.is !== at.value) problems.push(`${key}: ${at.value} stored ${is.length - was.length} readings, ${is.at(-1)?.value.is}`);
      counts.outcomes.add(at.value);
    }
    const second = await again();
    if (second !== null) {
      if (second >= 500) problems.push(`${key}: sent twice: ${second}`);
      if ((await stored(server, at.path)) !== later) problems.push(`${key}: sent twice, stored twice`);
      counts.twice += 1;
    }
  }
  return problems;
}

const isSentOnce = (body) => /(^|&)(sent|id)=[0-9a-f-]{36}/.test(body);

/** Presses one button on its page; what is wrong with what follows. */
async function press(page, server, key, at, counts) {
  const problems = [], { base } = server;
  await page.context().addCookies([{ name: "not_today", value: ofTheDay(at) ? "never" : putOff(at.path), url: base }]);
  await page.goto(base + at.path, { waitUntil: "domcontentloaded" });
  const form = await page.evaluate(({ action, name, value, label }) => {
    const look = (field) => [field.name, field.type === "checkbox" || field.type === "radio" ? `${field.value} ${field.checked}` : field.value];
    document.querySelectorAll("details").forEach((one) => { one.open = true; });
    const words = (node) => node.textContent.replace(/\d+/g, "#").replace(/\s+/g, " ").trim();
    const wanted = (one) => (one.name || "") === name && (one.getAttribute("value") ?? "") === value && words(one) === label;
    const forms = [...document.forms].filter((form) => (form.getAttribute("action") || location.pathname + location.search) === action);
    const button = forms.flatMap((form) => [...form.querySelectorAll("button")]).find(wanted);
    if (!button) return null;
    button.setAttribute("data-pressed", "");
    const box = button.getBoundingClientRect();
    return {
      visible: box.width > 0 && box.height > 0 && getComputedStyle(button).visibility === "visible",
      valid: button.formNoValidate || button.form.checkValidity(),
      get: (button.getAttribute("formmethod") || button.form.getAttribute("method") || "get").toLowerCase() === "get",
      typed: [...button.form.elements].filter((field) => field.name && field.type !== "hidden" && field.type !== "file" && field.tagName !== "BUTTON").map(look),
    };
  }, at);
  if (!form) return null;
  if (!form.visible) { counts.hidden.add(key); return problems; }
  const earlier = await stored(server, at.path);
  const isPost = (one) => one.request().method() === "POST";
  const answered = form.valid && !form.get ? page.waitForResponse(isPost, { timeout: 8000 }).catch(() => null) : Promise.resolve(null);
  await page.click("[data-pressed]", { timeout: 30_000 }).catch((error) => problems.push(`${key}: not pressed: ${error.message.split("\n").slice(0, 12).join(" ")}`));
  const answer = await answered;
  if (form.get) { counts.get += 1; return problems; }
  if (!form.valid) {
    counts.held += 1;
    if ((await stored(server, at.path)) !== earlier) problems.push(`${key}: stored, though the browser held it`);
    return problems;
  }
  if (!answer) return [...problems, `${key}: nothing was sent`];
  await page.waitForLoadState();
  const shown = () => page.evaluate((action) => {
    const look = (field) => [field.name, field.type === "checkbox" || field.type === "radio" ? `${field.value} ${field.checked}` : field.value];
    const again = [...document.forms].filter((one) => (one.getAttribute("action") || "") === action);
    return again.flatMap((one) => [...one.elements].map(look));
  }, at.action);
  const again = async () => {
    const request = answer.request(), body = request.postData();
    if (!body || !/application\/x-www-form-urlencoded/.test(request.headers()["content-type"] ?? "") || !isSentOnce(body)) return null;
    const second = await fetch(answer.url(), { method: "POST", redirect: "manual", body, headers: { "content-type": "application/x-www-form-urlencoded", origin: base } });
    await second.arrayBuffer();
    return second.status;
  };
  const words = () => page.evaluate(() => document.body.innerText);
  const to = pattern(new URL(answer.url()).pathname);
  return [...problems, ...(await judge(server, key, at, counts, { typed: form.typed, status: answer.status(), to, earlier, shown, words, again }))];
}

/** The fields of a form as they are sent and compared, and whether a browser would hold it; without a browser. */
function fieldsOf($, form) {
  const id = $(form).attr("id");
  const fields = [...$(form).find("input, select, textarea"), ...(id ? $(`input[form="${id}"], select[form="${id}"], textarea[form="${id}"]`) : [])];
  const sent = [], looks = [];
  let missing = false;
  for (const one of fields) {
    const field = $(one), name = field.attr("name"), type = one.tagName === "input" ? (field.attr("type") ?? "text") : one.tagName;
    if (!name || field.is("[disabled], fieldset[disabled] *") || ["submit", "button", "reset", "image"].includes(type)) continue;
    if (type === "checkbox" || type === "radio") {
      const value = field.attr("value") ?? "on", ticked = field.is("[checked]");
      if (ticked) sent.push([name, value]);
      looks.push([name, `${value} ${ticked}`]);
      continue;
    }
    if (type === "file") { sent.push([name, null]); continue; }
    const chosen = field.find("option[selected]").add(field.find("option").first()).last();
    const value = type === "select" ? (chosen.attr("value") ?? chosen.text().trim()) : type === "textarea" ? field.text() : (field.attr("value") ?? "");
    missing ||= field.is("[required]") && value === "";
    sent.push([name, value]);
    if (type !== "hidden") looks.push([name, value]);
  }
  return { sent, looks, held: missing && !$(form).is("[novalidate]") };
}

/** The same without a browser: the form is sent as one without scripts sends it; what a browser would hold is sent too. */
async function send(cookies, server, key, at, counts) {
  const { base } = server;
  const cookie = [...cookies, `not_today=${ofTheDay(at) ? "never" : putOff(at.path)}`].join("; ");
  const $ = load(await (await fetch(base + at.path, { headers: { cookie } })).text());
  const forms = [...$("form")].filter((form) => ($(form).attr("action") || at.path) === at.action);
  const wanted = (one) => ($(one).attr("name") ?? "") === at.name && ($(one).attr("value") ?? "") === at.value && plain($(one).html()) === at.label;
  const form = forms.find((one) => [...$(one).find("button")].some(wanted));
  if (!form) return null;
  const button = $([...$(form).find("button")].find(wanted)), { sent, looks, held } = fieldsOf($, form);
  if (at.name) sent.push([at.name, at.value]);
  const to = new URL(button.attr("formaction") || $(form).attr("action") || at.path, base);
  const method = (button.attr("formmethod") || $(form).attr("method") || "get").toLowerCase();
  if (method === "get") {
    const answer = await fetch(`${to.origin}${to.pathname}?${new URLSearchParams(sent.filter(([, value]) => value !== null))}`, { headers: { cookie } });
    await answer.arrayBuffer();
    counts.get += 1;
    return answer.status >= 500 || [400, 404].includes(answer.status) ? [`${key}: ${answer.status}`] : [];
  }
  const earlier = await stored(server, at.path);
  const parts = $(form).attr("enctype") === "multipart/form-data";
  const filled = parts ? new FormData() : new URLSearchParams();
  for (const [name, value] of sent) {
    if (value !== null) filled.append(name, value);
    else if (parts) filled.append(name, new Blob([]), "");
  }
  const post = () => fetch(to, { method: "POST", redirect: "manual", headers: { cookie, origin: base }, body: filled });
  const answer = await post(), answered = load(await answer.text());
  if (held && !button.is("[formnovalidate]")) {
    counts.held += 1;
    const taken = answer.status < 400 && !ONLY_LOOKS.test(pattern(to.pathname));
    return [
      ...((await stored(server, at.path)) === earlier ? [] : [`${key}: stored, though a browser would have held it`]),
      ...(taken ? [`${key}: ${answer.status}, though a browser would have held it`] : []),
    ];
  }
  if (answer.status === 303) {
    const next = await fetch(new URL(answer.headers.get("location"), base), { headers: { cookie } });
    await next.arrayBuffer();
    if (next.status !== 200) return [`${key}: on to ${pattern(answer.headers.get("location"))}: ${next.status}`];
  }
  const shown = async () => [...answered("form")].filter((one) => answered(one).attr("action") === at.action).flatMap((one) => fieldsOf(answered, one).looks);
  const again = async () => {
    if (parts || !isSentOnce(filled.toString())) return null;
    const second = await post();
    await second.arrayBuffer();
    return second.status;
  };
  const words = async () => answered("body").text().replace(/\s+/g, " ");
  return judge(server, key, at, counts, { typed: looks, status: answer.status, to: pattern(to.pathname), earlier, shown, words, again });
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
      return await round(mode, inBrowser(chrome, how), mode === "demo" ? inTheCheck : undefined);
    } catch (error) {
      if (again || !(error instanceof Standstill)) throw error;
    } finally {
      await within(10_000, chrome.close()).catch(() => {});
    }
  }
}

const begun = () => ({ links: 0, buttons: 0, get: 0, held: 0, refused: 0, taken: 0, twice: 0, hidden: new Set(), outcomes: new Set() });

/** Goes round all pages of a database and presses every button; counts of what followed. `opened` opens a server in
 * whatever presses: a button pressed, what was heard meanwhile, and its end. */
async function round(mode, opened, some = (all) => all) {
  let server = await start(mode);
  const counts = begun();
  try {
    const { links, buttons: all, wrong: broken } = await crawl(mode, server.base);
    const wrong = [...broken], buttons = some(all);
    Object.assign(counts, { links, buttons: buttons.size });
    let here = await opened(server);
    for (const [key, places] of buttons) {
      // What an earlier button took away is pressed in a database as it came.
      for (const fresh of [false, true]) {
        if (fresh) {
          wrong.push(...(await here.end()));
          await server.stop();
          server = await start(mode);
          here = await opened(server);
        }
        let done = null;
        for (const at of places.slice(0, fresh ? 1 : 3)) {
          done = await here.press(key, at, counts);
          if (done) break;
        }
        if (done) { wrong.push(...done); break; }
        if (fresh) wrong.push(`${key}: is not there`);
      }
    }
    wrong.push(...(await here.end()));
    return { wrong, counts };
  } finally {
    await server.stop();
  }
}

/** Without a browser, as one without scripts would: forms are sent as they stand. */
const sentRound = (mode, writer) => round(mode, async (server) => ({
  press: (key, at, counts) => send(writer ? [`writer=${encodeURIComponent(writer)}`] : [], server, key, at, counts),
  end: async () => [],
}));

const inBrowser = (chrome, { viewport, writer }) => async (server) => {
  const context = await within(60_000, chrome.newContext({ viewport, hasTouch: viewport === PHONE, isMobile: viewport === PHONE, acceptDownloads: true }));
  await context.addCookies([{ name: "writer", value: encodeURIComponent(writer), url: server.base }]);
  const page = await context.newPage();
  page.on("dialog", (dialog) => dialog.accept());
  const heard = watch(page, server.base);
  return {
    press: (key, at, counts) => within(60_000, press(page, server, key, at, counts)),
    end: async () => { await within(30_000, context.close()); return heard; },
  };
};

const tell = (t, counts) => t.diagnostic(Object.entries(counts).map(([name, count]) => `${name} ${count instanceof Set ? count.size : count}`).join(", "));

describe("every button", { concurrency: 2 }, () => {
  const says = (t, { wrong, counts }, mode) => {
    tell(t, counts);
    assert.deepEqual(wrong, []);
    if (mode !== "demo") return;
    assert.deepEqual([...counts.outcomes].sort(), ["fail", "pass"], "both outcome buttons were taken");
    assert.ok(counts.taken > 20 && counts.refused > 10 && counts.twice > 10, "the round says something");
  };
  const named = (mode) => `${mode === "serve" ? "an empty" : "the demo"} database`;
  // In a browser with scripts the large round is walked on a laptop; pages on a phone are looked at in all_pages.test.mjs.
  for (const [mode, name, viewport] of [["demo", "laptop", LAPTOP], ["serve", "laptop", LAPTOP], ["serve", "phone", PHONE]]) {
    test(`${named(mode)}, ${name}, scripts on`, async (t) => says(t, await rounds(mode, { viewport, writer: "Maud Ferrow" }), mode));
  }
  for (const mode of ["serve", "demo"]) {
    test(`${named(mode)}, without scripts`, async (t) => says(t, await sentRound(mode, "Maud Ferrow"), mode));
  }

  test("the demo database by nobody: what wants a name is refused and keeps what was typed", async (t) => says(t, await sentRound("demo", ""), ""));
});
