// The whole walk, from an empty database to a certificate that verifies: a house with two boards, a
// three-phase board with motors, and minor works in an occupied house with one circuit isolated alone.
import assert from "node:assert/strict";
import { spawnSync } from "node:child_process";
import { writeFileSync } from "node:fs";
import { join } from "node:path";
import { after, before, test } from "node:test";
import { PASSPHRASE, browser, madeFrom, program, start, violations, watch } from "./harness.mjs";
import { walk } from "./walker.mjs";

let chrome;
before(async () => { chrome = await browser(); });
after(async () => { await chrome?.close(); });

/** A firm with a key that is exported, and a job of one board described over HTTP. */
async function begun(base, job, lines, particulars = {}) {
  const post = async (path, body, want = 303) => {
    const answer = await fetch(base + path, { method: "POST", redirect: "manual", body: new URLSearchParams({ ...(await madeFrom(base + path)), ...body }), headers: { origin: base } });
    assert.equal(answer.status, want, `${path}: ${want === answer.status ? "" : (await answer.text()).match(/class="error"[^>]*>([^<]*)/g)}`);
    return answer.headers.get("location");
  };
  const file = async (path) => (await (await fetch(`${base}${path}/job.json`)).json()).job;
  await post("/firm", { firm_name: "Lammas & Wren Electrical", firm_address: "9 Ropewalk, Brackwater" });
  await post("/firm/people", { person_name: "Odile Wren", person_position: "Electrician" });
  await post("/firm/instruments", { instrument_reference: "MFT-9", kind: "multifunction tester", due: "2031-04-30" });
  await post("/firm/key", { what: "make", by: "Odile Wren", passphrase: PASSPHRASE, passphrase_again: PASSPHRASE });
  await post("/firm/key/export", { by: "Odile Wren" }, 200);
  const path = await post("/jobs", { reference: "W-1", client: "Halyard Press & Bindery", site: "Sluice Lane, Brackwater", premises: "dwelling", nature: "new", lines: "single", system: "TN-C-S", ...job });
  const board = (await file(path)).installation.boards[0].id;
  for (const line of lines) await post(`${path}/boards/${board}/circuits`, { line, then: "more" });
  const described = { decisions: "yes", bond0_to: "water", bond0_mm2: "10", bond0_m: "2", tails: "25", earthing: "16", supply_device: "BS 88-3 fuse", supply_device_a: "100", surge: "not_required", surge_reason: "assessed", arc: "not_required", arc_reason: "assessed" };
  await post(`${path}/particulars`, { reference: "W-1", title: job.title, client: "Halyard Press & Bindery", site: "Sluice Lane", site_address: "Sluice Lane, Brackwater", extent: job.title, nature: "new", premises: "dwelling", system: "TN-C-S", lines: "single", ...described, ...job, ...particulars });
  const of = (await file(path)).installation.boards[0];
  await post(`${path}/boards/${board}`, { name: of.name, location: "under the stair", system: of.system, lines: of.lines, fed: "supply", switch: "BS EN 60947-3 switch", poles: of.lines === "three" ? "3" : "2", switch_a: "100" });
  return { path, board, post, file: () => file(path) };
}

/** From the last card to a certificate that verifies without the database. */
async function issued(page, server, job, roles) {
  assert.match(await page.locator(".run-card.finished").innerText(), /Nothing is missing/);
  await page.getByRole("link", { name: "Review and sign" }).click();
  await page.waitForURL(/certificate/);
  for (const role of roles) {
    await page.getByLabel(`${role}: name`).fill("Odile Wren");
    await page.getByLabel(`${role}: position`).fill("Electrician");
  }
  await page.getByRole("checkbox", { name: /seen the draft/ }).check();
  await page.getByLabel("Passphrase of the signing key").fill(PASSPHRASE);
  await Promise.all([page.waitForURL(() => true, { waitUntil: "load" }), page.getByRole("button", { name: "Issue the certificate" }).click()]);
  await page.getByText("W-1-C1").first().waitFor();
  const pdf = join(server.folder, "c1.pdf"), key = join(server.folder, "FIRM.pub");
  writeFileSync(pdf, Buffer.from(await (await fetch(`${server.base}${job.path}/certificates/W-1-C1/pdf`)).arrayBuffer()));
  writeFileSync(key, Buffer.from(await (await fetch(`${server.base}/firm/key/FIRM.pub`)).arrayBuffer()));
  const verified = spawnSync(program, ["verify", pdf, "--key", key], { encoding: "utf8" });
  assert.equal(verified.status, 0, verified.stdout + verified.stderr);
  return spawnSync("pdftotext", ["-layout", pdf, "-"], { encoding: "utf8" }).stdout;
}

async function walked(job, lines, { particulars, more, options, viewport = { width: 1280, height: 800 }, touch = false, roles = ["Design", "Construction", "Inspection and testing"] }) {
  const server = await start("serve");
  try {
    const made = await begun(server.base, job, lines, particulars);
    await more?.(made);
    const page = await (await chrome.newContext({ viewport, hasTouch: touch, isMobile: touch })).newPage();
    const wrong = watch(page, server.base);
    const seen = await walk(page, `${server.base}${made.path}/run`, options);
    assert.deepEqual(await violations(page), []);
    const paper = await issued(page, server, made, roles);
    assert.deepEqual(wrong, []);
    return { seen, job: await made.file(), paper };
  } finally {
    await server.stop();
  }
}

const of = (job, test) => job.readings.filter((one) => one.key.test.test === test);

test("a house with two boards, the second fed by the first", async () => {
  const { seen, job, paper } = await walked(
    { title: "House and garden studio", board: "House board" },
    ['1 ring RCBO B32 6kA 2.5/1.5 legs 6,9,4.5,11,12.5 ref C N1 E1 "Sockets"', '2 lights RCBO B6 6kA 1.5/1.0 legs 8,5,3 3pts ref C N2 E2 "Lights"', '3 board B40 6kA 10/4 21m 1pt ref C N3 E3 "Studio feed"'],
    {
      more: async ({ path, post, file }) => {
        const studio = (await post(`${path}/boards`, { board_name: "Studio board" })).split("/").at(-1);
        const feed = (await file()).installation.circuits.find((one) => one.way === "3").id;
        await post(`${path}/boards/${studio}`, { name: "Studio board", location: "studio, behind the door", system: "TN-C-S", lines: "single", fed: feed, switch: "BS EN 60947-3 switch", poles: "2", switch_a: "63" });
        await post(`${path}/boards/${studio}/circuits`, { line: '1 radial RCBO B20 6kA 2.5/1.5 legs 7,4 2pts ref C N1 E1 "Studio sockets"', then: "more" });
      },
    },
  );
  assert.equal(seen.cards["ze-next"], 1, "Ze once, at the origin");
  assert.equal(job.installation.boards.length, 2);
  assert.equal(job.events.filter((one) => one.kind.what === "energised").length, 2, "each board comes to power, the upper first");
  const order = seen.steps.filter((step) => step === "zs");
  assert.equal(order.length, 4, "Zs of each way, Zdb among them");
  assert.match(paper, /Studio board/);
  assert.match(paper, /Zdb at the board[\s\S]{0,240}0\.\d\d Ω/);
});

test("a three-phase board with motors", async () => {
  const { seen, job, paper } = await walked(
    { title: "Bindery floor", board: "Bindery board", lines: "three", premises: "industrial" },
    ['1 radial 3ph C16 6kA 2.5/1.5 fixed 14m 1pt ref C N1 E1 "Nipping press"', '2 radial 3ph C16 6kA 4/-/2.5 fixed 12m 1pt ref C E2 "Guillotine"', '3 radial RCBO B16 6kA 2.5/1.5 legs 8,4 2pts ref C N3 E3 "Bench sockets"'],
    {
      // The kind of a cable that is no twin-and-earth, and what it carries as designed.
      more: async ({ path, post, file }) => {
        for (const circuit of (await file()).installation.circuits.slice(0, 2)) {
          const neutral = circuit.cable.neutral_mm2;
          await post(`${path}/circuits/${circuit.id}/edit`, { way: circuit.way, description: circuit.description, shape: "radial", feeds: "fixed", lines: "three", standard: "BS EN 60898", trip: "C", rating: "16", breaking: "6", cable: "singles", insulation: "thermoplastic70", line_mm2: circuit.cable.line_mm2, neutral_mm2: neutral ?? "none", cpc_mm2: circuit.cable.cpc_mm2, method: "B", neutral_terminal: neutral ? `N${circuit.way}` : "", cpc_terminal: `E${circuit.way}`, length: circuit.length_m, order: "no", wiring: "new", designed: "yes", band: "low", design_a: "11", capacity_a: "20", capacity_source: "designer's sheet 4", p0_id: "1", p0_name: "1", p0_what: "equipment", p0_asked: "yes" });
        }
      },
      options: { typed: (text, step) => (/^pfc/.test(step) ? "1.30" : undefined) },
    },
  );
  assert.deepEqual(of(job, "phase_sequence").map((one) => one.value.is), ["pass"]);
  assert.deepEqual(of(job, "ze").map((one) => one.key.line).sort(), ["L1", "L2", "L3"]);
  const motor = job.installation.circuits[1];
  assert.deepEqual(of(job, "r1_r2").filter((one) => one.key.subject.circuit === motor.id).map((one) => one.key.line).sort(), ["L1", "L2", "L3"]);
  assert.equal(of(job, "insulation").filter((one) => one.key.subject.circuit === motor.id).length, 6, "four conductors make six pairs");
  assert.ok(seen.steps.indexOf("phase-sequence") < seen.steps.indexOf("zs-l1"));
  assert.match(paper, /Guillotine/);
});

for (const [name, viewport, touch] of [["laptop", { width: 1280, height: 800 }, false], ["phone", { width: 390, height: 844 }, true]]) {
  test(`minor works in an occupied house: TT, one circuit isolated alone, ${name}`, async () => {
    const { seen, job, paper } = await walked(
      { title: "A socket for the plate press", board: "House board", system: "TT", nature: "minor_works" },
      ['4 radial RCBO B20 6kA 2.5/1.5 legs 8,5,6 3pts work 3 existing ref C N4 E4 "Back room sockets"'],
      {
        particulars: { continuity: "r2", electrode: "rod beside the door" },
        viewport,
        touch,
        roles: ["Inspection and testing"],
        options: { alone: true, neutral: true, place: "3", press: touch ? (locator) => locator.tap() : undefined, typed: (text, step) => (/^(loop|zs)/.test(step) ? "41.2" : undefined) },
      },
    );
    assert.equal(job.installation.house_rules.continuity, "r2");
    assert.equal(seen.cards.prove, 1, "the board is never dead: nothing inside it is touched");
    assert.equal(seen.cards["ze-next"], undefined, "no earth comes off");
    const said = job.events.map((one) => one.kind.what);
    assert.deepEqual(said.filter((what) => ["in_use", "isolated", "proved_dead", "energised"].includes(what)), ["in_use", "isolated", "proved_dead", "energised"]);
    const proved = job.events.find((one) => one.kind.what === "proved_dead").kind;
    assert.deepEqual([proved.circuits.length, proved.pairs, proved.place], [1, 3, "3"]);
    assert.ok(!said.includes("supply_exposed"));
    const points = of(job, "r2").map((one) => one.key.subject.place.point);
    assert.deepEqual(points, [3], "the points that stood are not asked");
    assert.ok(job.readings.length <= 20, `${job.readings.length} readings`);
    assert.match(paper, /Minor electrical works certificate/);
    assert.match(paper, /Back room sockets/);
  });
}
