// Every page: no violation of axe, nothing scrolls sideways, nothing asked from elsewhere.
import assert from "node:assert/strict";
import { after, before, test } from "node:test";
import { browser, demoJobs, start, violations, watch } from "./harness.mjs";

const instrumentPath = async (base) => /\/firm\/instruments\/[0-9a-f-]{36}/.exec(await (await fetch(`${base}/firm`)).text())[0];

let server, chrome, pages;
/** An exercise that is begun: its page. */
async function begun(exercise) {
  const body = new URLSearchParams({ exercise, by: "Tova Brandreth", sent: crypto.randomUUID() });
  const answer = await fetch(`${server.base}/practice`, { method: "POST", redirect: "manual", body, headers: { origin: server.base } });
  return answer.headers.get("location");
}

before(async () => {
  server = await start("demo");
  chrome = await browser();
  const { "G-101": done, "G-102": half, "G-103": faulty, "G-104": searched } = await demoJobs(server.base);
  pages = {
    jobs: "/",
    "search without result": "/?q=nothing",
    "new job": "/jobs/new",
    import: "/import",
    "begun from a pattern": `${half.path}/begin?from=house-and-outbuilding`,
    "begun from a pattern of three phases": `${searched.path}/begin?from=works`,
    "three-phase sheet": `${searched.board}/sheet`,
    "a circuit added": `${half.board}?added=${half.way[3].split("/").at(-1)}`,
    firm: "/firm",
    instrument: await instrumentPath(server.base),
    "finished job": done.path,
    "half done job": half.path,
    particulars: `${half.path}/particulars`,
    "board proved dead": half.board,
    "board energised": done.board,
    "ring with a spur": `${done.way[3]}?at=r2-p10`,
    "ring, every reading in": done.way[3],
    "ring with a fault": `${faulty.way[3]}?at=rn`,
    radial: `${done.way[7]}?at=ir-e-l`,
    describe: `${half.way[3]}/edit`,
    "run, a point": `${half.path}/run`,
    "run, to be made": `${half.path}/run?of=${half.way[3].split("/").at(-1)}&at=r2-board`,
    "run, the search": `${searched.path}/run`,
    "run, energised": `${done.path}/run?of=${done.way[3].split("/").at(-1)}&at=r1`,
    isolate: `${searched.board}/isolate`,
    "lighting with its switches": searched.way[1],
    "three-phase radial": searched.way[4],
    origin: `${half.path}/origin`,
    inspection: `${half.path}/inspection`,
    review: `${half.path}/review`,
    "review of the fault": `${faulty.path}/review`,
    "certificate waits": `${half.path}/certificate`,
    "certificate issued": `${done.path}/certificate`,
    ze: `${half.path}/origin/ze`,
    energise: `${half.board}/energise`,
    "energise, live": `${done.board}/energise`,
    "board as a whole": `${done.board}/tests`,
    "three-phase board as a whole": `${searched.board}/tests`,
    "three-phase origin": `${searched.path}/origin`,
    "live tests": `${done.way[3]}?at=rcd-1`,
    "schedule sheet": `${half.board}/sheet`,
    "circuits from a table": `${half.board}/circuits-in`,
    reference: "/reference",
    calculator: "/reference/calc/loop?ze=0.21&r1_r2=0.45&device=BS+EN+60898&type=B&rating_a=32&disconnection_s=0.4",
    "calculator refuses": "/reference/calc/ring?r1=x",
    verify: "/verify?code=G-101-C1",
    key: "/firm/key",
    practice: "/practice",
    "an exercise": await begun("ring"),
    "an exercise with lamps": `${await begun("insulation")}?way=2`,
    "a question with a figure": "/practice/questions?q=12",
    "a question with a list": "/practice/questions?q=7",
    "a circuit on the bench": `${faulty.way[3]}/bench?wrong=open&core=E&place=2`,
    "not here": "/jobs/00000000-0000-0000-0000-000000000000",
  };
});
after(async () => {
  await chrome?.close();
  await server?.stop();
});

for (const [name, width, height, scheme, always] of [
  ["laptop", 1280, 800, "light", true],
  ["phone", 390, 844, "dark", true],
  ["tablet", 820, 1180, "dark", false],
  ["phone", 390, 844, "light", false],
]) {
  // Between a phone and a laptop only the width is looked at in the check; the whole in the long one.
  const axe = always || Boolean(process.env.PROOF_LONG);
  test(`${axe ? "axe on" : "the width of"} every page, ${name}, ${scheme}`, async () => {
    const context = await chrome.newContext({ viewport: { width, height }, colorScheme: scheme });
    const page = await context.newPage();
    const wrong = watch(page, server.base);
    const found = [];
    for (const [what, path] of Object.entries(pages)) {
      await page.goto(server.base + path);
      if (axe) found.push(...(await violations(page)).map((line) => `${what}: ${line}`));
      const sideways = await page.evaluate(() => document.documentElement.scrollWidth - innerWidth);
      if (sideways > 0) found.push(`${what}: scrolls ${sideways} px sideways`);
    }
    assert.deepEqual(found, []);
    assert.deepEqual(wrong, []);
    await context.close();
  });
}

test("axe on the way in of an empty database, at three sizes", async () => {
  const fresh = await start("serve");
  const found = [];
  for (const [width, height] of [[1280, 800], [820, 1180], [390, 844]]) {
    const page = await (await chrome.newContext({ viewport: { width, height } })).newPage();
    for (const path of ["/", "/jobs/new", "/firm", "/firm/key"]) {
      await page.goto(fresh.base + path);
      found.push(...(await violations(page)).map((line) => `${path} at ${width}: ${line}`));
      const sideways = await page.evaluate(() => document.documentElement.scrollWidth - innerWidth);
      if (sideways > 0) found.push(`${path} at ${width}: scrolls ${sideways} px sideways`);
      // Examples are of no job of the demo.
      const said = await page.evaluate(() => document.body.innerText + [...document.querySelectorAll("[placeholder]")].map((one) => one.placeholder));
      if (/Idris|Maud|Press room|Granary|kiln/i.test(said)) found.push(`${path}: an example of the demo`);
    }
  }
  assert.deepEqual(found, []);
  assert.equal(await fresh.stop(), 0);
});

test("every page prints on A4: nothing is cut off, no button and no navigation", async () => {
  const context = await chrome.newContext({ viewport: { width: 794, height: 1123 } });
  const page = await context.newPage();
  await page.emulateMedia({ media: "print" });
  const found = [];
  for (const [what, path] of Object.entries(pages)) {
    await page.goto(server.base + path);
    const shown = await page.evaluate(() => {
      const seen = (one) => one.getClientRects().length > 0 && getComputedStyle(one).visibility !== "hidden";
      const wide = document.documentElement.scrollWidth - innerWidth;
      const left = [...document.querySelectorAll(".index, .program, .look, button.primary")].filter(seen).map((one) => one.className || one.textContent.trim());
      return { wide, left };
    });
    if (shown.wide > 0) found.push(`${what}: ${shown.wide} px beyond the sheet`);
    if (shown.left.length) found.push(`${what}: prints ${shown.left.join(", ")}`);
  }
  assert.deepEqual(found, []);
  await context.close();
});

test("controls in one gloved hand are 44 px on a phone", async () => {
  const context = await chrome.newContext({ viewport: { width: 390, height: 844 } });
  const page = await context.newPage();
  await page.goto(server.base + pages["ring with a fault"]);
  const small = await page.evaluate(() =>
    [...document.querySelectorAll("#entry button, .step-group a, .index a, #typed, .actions a, #entry label.tick, #entry .step-links a")]
      .filter((e) => e.getClientRects().length > 0)
      .map((e) => [e.textContent.trim().slice(0, 20), e.getBoundingClientRect().height])
      .filter(([, height]) => height < 43.5),
  );
  assert.deepEqual(small, []);
  await context.close();
});

test("first visit weighs at most 150 kB", async () => {
  const context = await chrome.newContext({ viewport: { width: 1280, height: 800 } });
  const page = await context.newPage();
  const session = await context.newCDPSession(page);
  await session.send("Network.enable");
  let bytes = 0;
  session.on("Network.loadingFinished", (event) => { bytes += event.encodedDataLength; });
  await page.goto(server.base + pages["ring with a spur"], { waitUntil: "networkidle" });
  assert.ok(bytes > 20_000 && bytes <= 150_000, `${bytes} bytes`);
  await context.close();
});
