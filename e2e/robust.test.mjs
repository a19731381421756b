// Without scripts, without a connection, with wrong input: nothing typed is lost.
import assert from "node:assert/strict";
import { writeFile } from "node:fs/promises";
import { join } from "node:path";
import { after, before, test } from "node:test";
import { browser, demoJobs, madeFrom, read, start } from "./harness.mjs";

let server, chrome, ring, jobId, doneId;
before(async () => {
  server = await start("demo");
  chrome = await browser();
  const { "G-101": done, "G-102": half } = await demoJobs(server.base);
  doneId = done.id;
  jobId = half.id;
  ring = server.base + half.way[3];
});
after(async () => {
  await chrome?.close();
  await server?.stop();
});

const stored = async () => (await (await fetch(`${server.base}/jobs/${jobId}/job.json`)).json()).job.readings;

test("a reading is entered with scripts off", async () => {
  const context = await chrome.newContext({ javaScriptEnabled: false });
  const page = await context.newPage();
  await page.goto(`${ring}?at=r2-p1`);
  await page.getByLabel("written by").fill("Idris Kell");
  await page.locator("#typed").fill("0.2O");
  await page.getByRole("button", { name: "Store" }).click();
  await page.getByText("is no unit of this field").waitFor();
  assert.equal(await page.locator("#typed").inputValue(), "0.2O");
  const before = (await stored()).length;
  await page.locator("#typed").fill("0.17");
  await page.getByRole("button", { name: "Store" }).click();
  await page.locator(".verdict-value", { hasText: "0.17" }).waitFor();
  assert.match(page.url(), /at=r2-p2&last=r2-p1/);
  const readings = await stored();
  assert.equal(readings.length, before + 1);
  assert.equal(readings.at(-1).context.entered_by, "Idris Kell");
  await context.close();
});

test("a lost connection and a reload keep what was typed; sent twice it is stored once", async () => {
  const context = await chrome.newContext();
  const page = await context.newPage();
  await page.goto(`${ring}?at=r2-p2`);
  await page.getByLabel("written by").fill("Idris Kell");
  await page.locator("#typed").focus();
  await context.setOffline(true);
  const before = (await stored()).length;
  await page.keyboard.type("0.18");
  await page.keyboard.press("Enter");
  await page.locator("#lost").waitFor({ state: "visible" });
  assert.equal(await page.locator("#typed").inputValue(), "0.18");
  await context.setOffline(false);
  await page.reload();
  assert.equal(await page.locator("#typed").inputValue(), "0.18", "a reload keeps it");
  const id = await page.locator("#entry input[name=id]").inputValue();
  await page.getByLabel("written by").fill("Idris Kell");
  // The answer is lost after the server stored it: the same form is sent again.
  const form = { step: "r2-p2", id, typed: "0.18", entered_by: "Idris Kell" };
  for (const round of [1, 2]) {
    const answer = await fetch(`${ring}/readings`, { method: "POST", redirect: "manual", body: new URLSearchParams(form), headers: { origin: server.base } });
    assert.equal(answer.status, 303, `round ${round}`);
  }
  await page.locator("#typed").focus();
  await page.keyboard.press("Enter");
  await page.waitForFunction(() => document.querySelector("#entry input[name=step]").value === "r2-p3");
  assert.equal((await stored()).length, before + 1);
  await context.close();
});

test("striking out wants a reason and brings the earlier reading back", async () => {
  const context = await chrome.newContext();
  const page = await context.newPage();
  await page.goto(`${ring}?at=r1`);
  const before = await page.locator(".readout div").first().innerText();
  await page.getByLabel("written by").fill("Maud Ferrow");
  await page.locator("#typed").focus();
  await read(page, "1.55");
  await page.goto(`${ring}?at=r1`);
  await page.getByText("2 taken").click();
  await page.getByLabel("Reason for striking out 1.55").fill("read at the wrong way");
  await page.locator(".strike").first().getByRole("button").click();
  await page.getByText("struck out: read at the wrong way").waitFor({ state: "attached" });
  assert.equal(await page.locator(".readout div").first().innerText(), before);
  await context.close();
});

test("bad requests are answered in words and store nothing", async () => {
  const before = (await stored()).length;
  const post = (path, body, headers = {}) =>
    fetch(path, { method: "POST", redirect: "manual", body: typeof body === "string" ? body : new URLSearchParams(body), headers: { origin: server.base, ...headers } });
  const id = "0e8b2c1e-6a44-4a52-9d3a-000000000001";
  for (const [what, path, body, status, headers] of [
    ["an unknown step", `${ring}/readings`, { step: "roof", id, typed: "1", entered_by: "x" }, 422],
    ["no id", `${ring}/readings`, { step: "r1", id: "", typed: "1", entered_by: "x" }, 422],
    ["nobody writes", `${ring}/readings`, { step: "r1", id, typed: "1", entered_by: "" }, 422],
    ["NaN", `${ring}/readings`, { step: "r1", id, typed: "NaN", entered_by: "x" }, 422],
    ["a huge number", `${ring}/readings`, { step: "r1", id, typed: "9".repeat(500), entered_by: "x" }, 422],
    ["no such circuit", `${server.base}/jobs/${jobId}/circuits/${id}/readings`, { step: "r1", id, typed: "1", entered_by: "x" }, 404],
    ["JSON instead of a form", `${ring}/readings`, "{}", 422, { "content-type": "application/json" }],
    ["another site", `${ring}/readings`, { step: "r1", id, typed: "1", entered_by: "x" }, 403, { origin: "http://elsewhere.example" }],
    ["strike without reason", `${ring}/strike`, { reading: id, reason: "", by: "x" }, 422],
    ["strike of nothing", `${ring}/strike`, { reading: id, reason: "y", by: "x" }, 404],
  ]) {
    const answer = await post(path, body, headers);
    assert.equal(answer.status, status, what);
    assert.ok((await answer.text()).length > 10, what);
  }
  assert.equal((await stored()).length, before);
  const get = await fetch(`${server.base}/jobs/not-a-job`);
  assert.equal(get.status, 400);
});

test("every form gives back what was typed and says what is allowed", async () => {
  const job = `${server.base}/jobs/${jobId}`;
  const { job: before } = await (await fetch(`${job}/job.json`)).json();
  const instrument = /\/firm\/instruments\/[0-9a-f-]{36}/.exec(await (await fetch(`${server.base}/firm`)).text())[0];
  const board = `${job}/boards/${before.installation.boards[0].id}`;
  const revision = 999999;
  for (const [path, body, status, ...says] of [
    [`${server.base}/jobs`, { reference: "a b", title: "T <b>x" }, 422, 'value="a b"', "T &#60;b&#62;x", "letters (a–z)"],
    [`${server.base}/jobs`, { reference: "G-102", title: "Again" }, 422, "already", 'value="Again"'],
    [`${server.base}/jobs`, { reference: "X", title: "x".repeat(201) }, 422, "longer than 200"],
    [`${job}/particulars`, { reference: "G-102", title: "", extent: "Kept text", tails: "-4" }, 422, "Kept text", "“-4” is not understood"],
    [`${job}/particulars`, { reference: "G-102", title: "T", months: "1000" }, 422, "1 to 240"],
    [`${job}/inspection`, { "intake-condition": "not_applicable", revision }, 409, "Somebody changed this meanwhile"],
    [`${ring}/edit`, { way: "3", standard: "BS EN 60898", trip: "", rating: "x", line_mm2: "2.5", neutral_mm2: "2.6", cpc_mm2: "" }, 422, "“x” is not understood", "A breaker has a type", "2.6 mm² is not in the table"],
    [`${ring}/edit`, { way: "3", standard: "BS EN 60898", trip: "B", rating: "32", line_mm2: "2.5", neutral_mm2: "2.5", cpc_mm2: "1.5" }, 409, "has readings"],
    [`${ring}/edit`, { way: "2", standard: "BS EN 60898", trip: "B", rating: "32", line_mm2: "2.5", neutral_mm2: "2.5", cpc_mm2: "1.5" }, 422, "share this way"],
    [`${ring}/edit`, { way: "3", standard: "BS EN 60898", trip: "B", rating: "32", line_mm2: "2.5", neutral_mm2: "2.5", cpc_mm2: "1.5", p0_name: "A", p0_id: "1", p0_spur: "1" }, 422, "leads in a circle"],
    [`${ring}/remove`, {}, 409, "has readings"],
    [board, { name: "", location: "Kept place" }, 422, "Kept place", "A board has a name"],
    [`${board}/circuits`, { line: "9 ring <b>" }, 422, "9 ring &#60;b&#62;", "Proposed, not stored"],
    [`${board}/circuits`, { line: "9 rng B33 <b>" }, 422, "9 rng B33 &#60;b&#62;", "breakers are rated"],
    [`${board}/circuits`, { line: "3 ring B32 6kA 2.5/1.5 54m 9pts ref C N3 E3 \"Sockets\"" }, 409, "share this way"],
    [`${board}/energise`, { what: "dance", by: "x" }, 422, "not outstanding"],
    [`${board}/energise`, { what: "owed", by: "x", thing: "kept lamp", made_safe: "" }, 409, "kept lamp", "how the tail was made safe"],
    [`${board}/isolate`, { by: "x", lock: "kept lock", loads: "yes", "v-l-n": "0", "v-l-e": "0" }, 422, "kept lock", "proved again after", "Every pair is tested"],
    [`${board}/isolate`, { by: "x", lock: "L", "v-l-n": "two" }, 422, "“two” is not understood"],
    [`${board}/put-back`, { what: "all", by: "x" }, 422, "each item of the list is back"],
    [`${job}/run/readings`, { of: "nobody", step: "r1", typed: "1" }, 422, "load the page again"],
    [`${job}/run/readings`, { of: before.installation.circuits[2].id, step: "r9", typed: "1" }, 422, "no step of this run"],
    [`${job}/run/readings`, { of: before.installation.circuits[0].id, step: "ir-e-l", typed: "0.5", entered_by: "x", id: crypto.randomUUID() }, 422, "Confirm which pair"],
    [`${job}/run/walked`, { of: before.installation.circuits[2].id, step: "r2-p1", typed: "1" }, 422, "at which point"],
    [`${job}/run/take-back`, { reading: "x", by: "x" }, 409, "not the last entry"],
    [`${job}/run/answer`, { what: "ambient", celsius: "warm" }, 422, "“warm” is not understood"],
    [`${job}/run/answer`, { what: "colour" }, 422, "no question"],
    [`${job}/run/act`, { what: "make", by: "" }, 422, "name"],
    [`${job}/run/opened`, { circuit: "x", point: "1" }, 422, "which circuit"],
    [`${board}/energise`, { what: "live", by: "" }, 422, "Give the name"],
    [`${board}/energise`, { what: "live", by: "x" }, 409, "tick the ways"],
    [`${job}/origin/ze`, { entered_by: "x", ze: "0.2", refitted: "yes" }, 409, "not off, so this is no Ze"],
    [`${job}/origin/readings`, { step: "ze", id: crypto.randomUUID(), typed: "0.21", entered_by: "x" }, 409, "filed when it is back on", "0.21"],
    [`${job}/review/judge`, { judgement: "kept words", by: "x", position: "" }, 422, "kept words", "by what right"],
    [`${board}/put-back`, { what: "nothing", by: "x" }, 422, "which item"],
    [`${board}/put-back`, { what: "altered", alteration: "painted", by: "x" }, 422, "what was altered"],
    [`${job}/boards`, { board_name: " " }, 422, "A board has a name"],
    [`${job}/inspection`, { "intake-condition": "perhaps" }, 422, "no outcome"],
    [`${job}/inspection`, { "intake-condition": "departure", "intake-condition-note": "" }, 422, "wants its reason"],
    [`${job}/certificate`, { name_design: "A", position_design: "", confirm: "" }, 422, "what is listed below blocks it"],
    [`${server.base}/jobs/${doneId}/certificate`, { name_design: "Kept name", position_design: "", confirm: "" }, 422, "Kept name", "Give the position", "seen the draft"],
    [`${job}/certificate`, { ...Object.fromEntries(["design", "construction", "inspection"].flatMap((r) => [[`name_${r}`, "A"], [`position_${r}`, "B"]])), confirm: "yes" }, 409, "blocks it"],
    [`${server.base}/firm`, { firm_name: "", firm_address: "Kept address" }, 422, "Kept address", "Give the name"],
    [`${server.base}/firm/people`, { person_name: "" }, 422, "Give a name"],
    [`${server.base}/firm/instruments`, { instrument_reference: "Z", kind: "z", over_range: "0" }, 422, "above 0"],
    [`${server.base}/firm/instruments`, { instrument_reference: "MFT-2", kind: "z" }, 409, "already"],
    [`${server.base}/firm/instruments`, { instrument_reference: "Z", kind: "kept kind", continuity_v: "48", insulation_v: "500 many" }, 422, "kept kind", "4 to 24 V", "“many” is no test voltage"],
    [`${server.base}/firm/rules`, { continuity: "by feel" }, 422, "none of the ways"],
    [`${server.base}${instrument}/checks`, { on: "yesterday", of: "continuity", fixed: "1.00", read: "x", check_by: "" }, 422, "“yesterday” is no date", "“x” is not understood", "who checked"],
    [`${server.base}${instrument}`, { instrument_reference: "", kind: "kept too" }, 422, "kept too", "your own reference"],
  ]) {
    const whole = new URLSearchParams({ ...(await madeFrom(path)), ...body });
    const answer = await fetch(path, { method: "POST", redirect: "manual", body: whole, headers: { origin: server.base } });
    const text = await answer.text();
    assert.equal(answer.status, status, `${path} ${JSON.stringify(body)}`);
    for (const words of says) assert.ok(text.includes(words), `${path} ${JSON.stringify(body)} says “${words}”`);
  }
  const { job: after } = await (await fetch(`${job}/job.json`)).json();
  assert.deepEqual(after, before, "nothing was stored");
});

test("an import is whole or not at all", async () => {
  const context = await chrome.newContext();
  const page = await context.newPage();
  const good = await (await fetch(`${server.base}/jobs/${jobId}/job.json`)).text();
  const file = join(server.folder, "job.json");
  for (const [text, says] of [
    [good.slice(0, good.length / 2), "not a whole job file"],
    [good.replace(/"version": \d/, '"version": 7'), "use a newer one"],
    [good.replace('"reference": "G-102"', '"reference": 102'), "not a whole job file"],
    [good, "already"],
    ["x", "not a whole job file"],
  ]) {
    await writeFile(file, text);
    await page.goto(`${server.base}/import`);
    await page.getByLabel("Job file").setInputFiles(file);
    await page.getByRole("button", { name: "Import" }).click();
    await page.getByRole("alert").getByText(says).waitFor();
  }
  // The same job under new names goes in whole.
  const job = JSON.parse(good);
  const fresh = () => crypto.randomUUID();
  job.job.id = fresh();
  job.job.reference = "G-202";
  for (const one of [...job.job.readings, ...job.job.events]) one.id = fresh();
  await writeFile(file, JSON.stringify(job));
  await page.goto(`${server.base}/import`);
  await page.getByLabel("Job file").setInputFiles(file);
  await page.getByRole("button", { name: "Import" }).click();
  await page.getByRole("heading", { name: /G-202/ }).waitFor();
  const back = await (await fetch(`${server.base}/jobs/${job.job.id}/job.json`)).json();
  assert.deepEqual(back, job);
  await context.close();
});

test("answers carry the security headers and no inline script", async () => {
  const answer = await fetch(ring);
  const policy = answer.headers.get("content-security-policy");
  assert.match(policy, /script-src 'self'/);
  assert.ok(!policy.includes("unsafe"));
  assert.equal(answer.headers.get("x-content-type-options"), "nosniff");
  const html = await answer.text();
  assert.ok(!/<script(?![^>]*\bsrc=)/.test(html), "no inline script");
  assert.ok(!/\son[a-z]+=/.test(html), "no inline handler");
  assert.ok(!/\sstyle=/.test(html), "no inline style");
});
