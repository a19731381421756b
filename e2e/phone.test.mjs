// The dead run of four circuits and Ze on a phone in one hand: every act of every card inside 390×660, where a
// browser's bars leave that much, without scrolling, by taps alone.
import assert from "node:assert/strict";
import { after, before, test } from "node:test";
import { PASSPHRASE, browser, madeFrom, spokenTo, start, violations, watch } from "./harness.mjs";

let chrome, server;
before(async () => { chrome = await browser(); server = await start("serve"); });
after(async () => { await chrome?.close(); await server?.stop(); });

const PHONE = { width: 390, height: 660 };

/** A flat of four circuits, described over HTTP. */
async function flat(base) {
  const post = async (path, body, want = 303) => {
    const answer = await fetch(base + path, { method: "POST", redirect: "manual", body: new URLSearchParams({ ...(await madeFrom(base + path)), ...body }), headers: { origin: base } });
    assert.equal(answer.status, want, path);
    return answer.headers.get("location");
  };
  await post("/first", { sent: crypto.randomUUID(), firm_name: "Wren Electrical", firm_address: "9 Ropewalk", person_name: "Odile Wren", person_position: "Electrician", instrument_reference: "MFT-9", kind: "multifunction tester", due: "2031-04-30", over_range: "999", passphrase: PASSPHRASE, passphrase_again: PASSPHRASE });
  const path = await post("/jobs", { reference: "P-1", title: "Flat", client: "A. Marlow", site: "4 Sluice Lane", premises: "dwelling", nature: "new", lines: "single", system: "TN-C-S", board: "Flat board" });
  const { job } = await (await fetch(`${base}${path}/job.json`)).json();
  for (const line of ['1 ring RCBO B32 6kA 2.5/1.5 legs 6,9,4.5,11 ref C N1 E1 "Sockets"', '2 lights RCBO B6 6kA 1.5/1.0 legs 8,5,3 ref C N2 E2 "Lights"', '3 fixed RCBO B32 6kA 6/2.5 9m 1pt ref C N3 E3 "Cooker"', '4 radial RCBO B20 6kA 2.5/1.5 legs 7,4 ref C N4 E4 "Kitchen sockets"']) {
    await post(`${path}/boards/${job.installation.boards[0].id}/circuits`, { line, then: "more" });
  }
  await post(`${path}/particulars`, { reference: "P-1", title: "Flat", client: "A. Marlow", site: "4 Sluice Lane", site_address: "4 Sluice Lane", extent: "all", nature: "new", premises: "dwelling", system: "TN-C-S", lines: "single", decisions: "yes", bond0_to: "water", bond0_mm2: "10", bond0_m: "2", tails: "25", earthing: "16" });
  return path;
}

/** What is pressed and lies outside the screen, with where it ends; what is expected and covered by the keys. */
const outside = (page, acts) => page.evaluate((acts) => {
  const shown = [...document.querySelectorAll(acts)].filter((one) => one.offsetParent);
  const wrong = shown.map((one) => [one.textContent.trim() || one.name, one.getBoundingClientRect()])
    .filter(([, box]) => box.bottom > innerHeight || box.top < 0 || box.right > innerWidth).map(([name, box]) => `${name} ends at ${Math.round(box.bottom)}`);
  const expected = document.querySelector(".run-card .expect-band")?.getBoundingClientRect(), keys = document.querySelector(".run-card .thumb")?.getBoundingClientRect();
  if (expected && keys && expected.bottom > keys.top + 2) wrong.push(`what is expected is covered: ${Math.round(expected.bottom)} below ${Math.round(keys.top)}`);
  if (scrollY > 0) wrong.push(`scrolled by ${scrollY}`);
  if (!shown.length) wrong.push("nothing to press");
  return wrong;
}, acts);

test("every act of the dead run and Ze without scrolling, by one thumb", async (t) => {
  const path = await flat(server.base);
  const context = await chrome.newContext({ viewport: PHONE, hasTouch: true, isMobile: true });
  await context.addCookies([{ name: "writer", value: "Odile+Wren", url: server.base }]);
  const page = await context.newPage();
  const heard = watch(page, server.base), wrong = [], seen = {};
  const look = async (what, acts) => {
    seen[what] = (seen[what] ?? 0) + 1;
    wrong.push(...(await outside(page, acts)).map((one) => `${what}: ${one}`));
  };
  await page.goto(`${server.base}${path}/run`);
  for (let turn = 0; turn < 200; turn += 1) {
    const card = page.locator(".run-card").first();
    const kind = (await card.getAttribute("class")).replace("run-card", "").trim();
    const step = kind === "read" ? await page.locator("#entry input[name=step]").inputValue() : "";
    await look(`${kind} ${step}`.trim(), ".run-card .primary:not(.store), .run-card .quick, .pad button, .run-pairs span, .run-card [name=covers], .run-last button");
    if (kind === "ze-next") break;
    await page.evaluate(() => { document.getElementById("run").dataset.seen = "yes"; });
    if (kind === "prove") {
      await card.locator("a.primary").tap();
      await page.waitForURL(/isolate/);
      const next = async (...ticks) => {
        await look(`isolate ${ticks}`, ".isolating .here input, .isolating .here button");
        for (const name of ticks) await page.locator(`[name=${name}]`).tap();
      };
      const on = () => page.locator(".isolating .here").getByRole("button", { name: "Next" }).tap();
      await next("loads", "locked");
      await page.locator("[name=lock]").fill("padlock 2, with me");
      await on();
      await next("before");
      await on();
      await next();
      for (const zero of await page.getByRole("button", { name: /no indication/ }).all()) await zero.tap();
      await on();
      await next("after");
      await page.getByRole("button", { name: /Record what the indicator/ }).tap();
      await page.waitForURL(/\/run/);
      continue;
    }
    if (kind === "ask" && (await page.locator("#celsius").count())) await page.locator("#celsius").fill("18");
    if (kind !== "read") await card.locator(".primary").first().tap();
    else if (await page.getByRole("button", { name: "Pass" }).count()) await page.getByRole("button", { name: "Pass" }).tap();
    else {
      const band = /expect\s+([\d.]+)–([\d.]+)/.exec(await card.innerText());
      // A radial reads more at each point: the last may show the whole cable.
      const point = Number(/-p(\d+)$/.exec(step)?.[1] ?? 3);
      const figure = /^ir-/.test(step) ? ">" : band ? (Number(band[1]) + (Number(band[2]) - Number(band[1])) * (0.4 + point / 20)).toFixed(2) : "0.02";
      for (const key of figure) await page.locator(".pad").getByRole("button", { name: key, exact: true }).tap();
      await page.locator(".pad").getByRole("button", { name: "Store" }).tap();
    }
    await page.waitForFunction(() => document.getElementById("run")?.dataset.seen === undefined && !document.querySelector(".htmx-settling, .htmx-swapping"));
  }
  assert.deepEqual(await violations(page), []);
  await page.locator(".run-card.ze-next a.primary").tap();
  await page.waitForURL(/origin\/ze/, { waitUntil: "load" });
  await look("ze, before", "button.danger");
  await spokenTo(page);
  await page.getByRole("button", { name: /expose the supply/ }).tap();
  await page.locator(".ze-line input.typed").first().waitFor();
  await page.waitForLoadState();
  await look("ze, exposed", ".ze-line input.typed, [name=refitted], .ze-form .form-end button");
  await page.locator(".ze-line input.typed").first().fill("0.21");
  await page.locator("[name=refitted]").tap();
  await page.getByRole("button", { name: /File the figures/ }).tap();
  await page.waitForURL(/\/run/);
  t.diagnostic(`${Object.keys(seen).length} kinds of cards, ${Object.values(seen).reduce((a, b) => a + b)} in all`);
  assert.deepEqual(wrong, []);
  assert.deepEqual(heard, []);
  const { job } = await (await fetch(`${server.base}${path}/job.json`)).json();
  const over = job.readings.filter((one) => one.typed === ">");
  assert.ok(over.length > 10 && over.every((one) => JSON.stringify(one.value).includes("999")), "over range is what its instrument shows");
  assert.ok(job.readings.length > 35, `${job.readings.length} readings`);
});
