// The demo's half-done job to an issued certificate through every gate; each gate is tried and holds;
// what was issued is altered, replaced, and read back by tools that did not write it.
import assert from "node:assert/strict";
import { execFileSync, spawnSync } from "node:child_process";
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { after, before, test } from "node:test";
import { browser, demoJobs, program, spokenTo, start, watch } from "./harness.mjs";

let server, chrome, page, wrong, half, folder;
before(async () => {
  server = await start("demo");
  chrome = await browser();
  const context = await chrome.newContext({ viewport: { width: 1280, height: 800 }, acceptDownloads: true });
  await context.addCookies([{ name: "writer", value: "Maud%20Ferrow", url: server.base }]);
  page = await context.newPage();
  wrong = watch(page, server.base);
  half = (await demoJobs(server.base))["G-102"];
  folder = mkdtempSync(join(tmpdir(), "proof-papers-"));
});
after(async () => {
  await chrome?.close();
  await server?.stop();
  rmSync(folder, { recursive: true, force: true });
});

const post = (path, body) =>
  fetch(server.base + path, { method: "POST", redirect: "manual", body: new URLSearchParams(body), headers: { origin: server.base } });
const text = async (path) => (await fetch(server.base + path)).text();
const job = async () => (await (await fetch(`${server.base}${half.path}/job.json`)).json()).job;

async function save(button) {
  await Promise.all([page.waitForURL(() => true, { waitUntil: "load" }), page.getByRole("button", { name: button }).click()]);
}

/** What a step that is not read should be answered with: the middle of what is expected; rising along
 * a run whose legs nobody drew, by the share of it that lies before the point. */
function answer(html, along) {
  if (/name="outcome" value="pass"/.test(html)) return "pass";
  const band = /class="expect-band">([^<]*)</.exec(html)?.[1] ?? "—";
  if (/class="unit">ms</.test(html)) return "24.2";
  if (/or more/.test(band)) return ">999";
  const between = /([\d.]+)–([\d.]+)/.exec(band);
  if (between && Number(between[1]) < 0.1 * Number(between[2])) return (Number(between[2]) * 0.85 * along).toFixed(2);
  return between ? ((Number(between[1]) + Number(between[2])) / 2).toFixed(2) : band.trim() === "open" ? "open" : null;
}

/** Reads every open step of a page whose stage passes, as a person would, one after another. */
async function walk(path, wanted) {
  const slugs = [...new Set([...(await text(path)).matchAll(/href="[^"]*\?at=([a-z0-9-]+)"/g)].map((m) => m[1]))];
  for (const slug of slugs) {
    const html = await text(`${path}?at=${slug}`);
    const stage = /class="entry-stage">([^<]*)</.exec(html)?.[1] ?? "";
    if (!wanted(stage.trim(), slug) || /: \d+ taken</.test(html)) continue;
    const run = slugs.filter((other) => /^r[n2]-p\d+$/.test(other) && other.slice(0, 4) === slug.slice(0, 4));
    const typed = answer(html, run.includes(slug) ? (run.indexOf(slug) + 1) / run.length : 1);
    if (typed === null) continue;
    const sent = await post(`${path}/readings`, { step: slug, id: crypto.randomUUID(), typed, entered_by: "Maud Ferrow", read_by: "Idris Kell", nulled: "yes" });
    assert.equal(sent.status, 303, `${path} ${slug} ${typed}: ${(await sent.text()).match(/entry-error[^>]*>([^<]*)/)?.[1]}`);
  }
}

const DEAD = /end to end|R1\+Rn|R1\+R2|R2 by|Insulation|Polarity/;

test("a half-done job to its certificate, through every gate", async (t) => {
  const circuits = (await job()).installation.circuits;
  const ways = circuits.map((circuit) => `${half.path}/circuits/${circuit.id}`);
  const all = Object.fromEntries(circuits.map((circuit) => [`c-${circuit.id}`, "yes"]));

  await t.test("no gate opens early, by whatever door", async () => {
    const before = await job();
    for (const [path, body, says] of [
      [`${half.board}/energise`, { what: "live", by: "x", covers: "yes", ...all }, /things are to be done/],
      [`${ways[1]}/readings`, { step: "zs", id: crypto.randomUUID(), typed: "0.4", entered_by: "x" }, /this is a live test/],
      [`${half.path}/origin/readings`, { step: "ze", id: crypto.randomUUID(), typed: "0.2", entered_by: "x" }, /filed when it is back on/],
      [`${half.path}/origin/ze`, { ze: "0.2", refitted: "yes", entered_by: "x" }, /not off, so this is no Ze/],
      [`${half.path}/origin/expose`, { by: "x" }, /put-back list/],
      [`${half.path}/certificate`, { confirm: "yes", name_design: "x", position_design: "x", name_construction: "x", position_construction: "x", name_inspection: "x", position_inspection: "x" }, /blocks it/],
    ]) {
      const refused = await post(path, body);
      assert.equal(refused.status, 409, path);
      assert.match(await refused.text(), says, path);
    }
    // A judgement written about what may not be judged changes nothing.
    const judged = await post(`${half.path}/review/judge`, { by: "x", position: "x", judgement: "let it stand" });
    assert.equal(judged.status, 422);
    // Nor does a file that says that the board is energised.
    const file = await (await fetch(`${server.base}${half.path}/job.json`)).json();
    const board = file.job.installation.boards[0].id;
    file.job.events.push({ id: crypto.randomUUID(), at: "2026-11-20T10:00:00Z", by: "x", kind: { what: "energised", board, circuits: [] } });
    file.job.reference = "G-199";
    file.job.id = crypto.randomUUID();
    for (const one of [...file.job.readings, ...file.job.events]) one.id = crypto.randomUUID();
    const form = new FormData();
    form.append("file", new Blob([JSON.stringify(file)]), "job.json");
    const imported = await fetch(`${server.base}/import`, { method: "POST", redirect: "manual", body: form, headers: { origin: server.base } });
    assert.equal(imported.status, 303);
    const came = `/jobs/${file.job.id}`;
    const live = await post(`${came}/circuits/${ways[1].split("/").at(-1)}/readings`, { step: "zs", id: crypto.randomUUID(), typed: "0.4", entered_by: "x" });
    assert.equal(live.status, 409, "its log is history");
    assert.match(await text(`${came}/review`), /energised with 2 items not put back/);
    assert.deepEqual(await job(), before, "nothing was stored");
  });

  await t.test("the dead tests, then everything back", async () => {
    for (const way of ways) await walk(way, (stage) => DEAD.test(stage));
    await page.goto(`${server.base}${half.path}/inspection`);
    await save(/yes to all/);
    await page.goto(server.base + half.board);
    await page.getByRole("checkbox", { name: /above is back/ }).check();
    await save(/Put back: all/);
    await page.goto(`${server.base}${half.board}/energise`);
    await page.getByText("In the way: 2").waitFor();
    for (const owed of ["Polarity of the supply is not done", "Ze is not read"]) await page.getByText(owed).waitFor();
  });

  await t.test("Ze exposed and filed; one way stays dead and locked", async () => {
    await page.goto(`${server.base}${half.path}/origin/ze`);
    await spokenTo(page);
    await save(/expose the supply/);
    const live = await post(`${half.board}/energise`, { what: "live", by: "x", covers: "yes", ...all });
    assert.equal(live.status, 409, "not while the earth is off");
    await page.locator("#ze").fill("0.21");
    await page.getByRole("checkbox", { name: /refitted/ }).check();
    await save(/File the figures/);
    await walk(`${half.path}/origin`, (stage, slug) => slug === "supply-polarity");
    for (const [step, typed] of [["pfc-ln", "1.28"], ["loop-ln", "0.18"], ["pfc-le", "1.21"]]) {
      const sent = await post(`${half.path}/origin/readings`, { step, id: crypto.randomUUID(), typed, entered_by: "Maud Ferrow" });
      assert.equal(sent.status, 303, step);
    }
    await page.goto(`${server.base}${half.board}/energise`);
    await page.getByText("Nothing is in the way").waitFor();
    await page.getByRole("checkbox", { name: /5 Immersion heater/ }).uncheck();
    await page.getByRole("checkbox", { name: /covers on/ }).check();
    await spokenTo(page);
    await save(/Energise what is ticked/);
    await page.getByText("What stays dead is locked: name the lock").waitFor();
    await page.getByLabel(/What stays dead: lock/).fill("padlock 4, key with Idris Kell");
    await page.getByLabel(/What it waits for/).fill("cylinder comes in December");
    await page.getByRole("checkbox", { name: /covers on/ }).check();
    await spokenTo(page);
    await save(/Energise what is ticked/);
    await page.locator(".band.energised").waitFor();
    const dead = await post(`${ways[4]}/readings`, { step: "zs", id: crypto.randomUUID(), typed: "0.5", entered_by: "x" });
    assert.equal(dead.status, 409, "the way that was left dead is not live");
    await page.goto(`${server.base}${half.board}/energise`);
    await page.getByLabel("What is outstanding, and where").fill("lamp over the stair");
    await page.getByLabel("How it was made safe").fill("tail in a connector, boxed");
    await save(/Add to what is outstanding/);
  });

  await t.test("the live tests; what may be judged is judged by name", async () => {
    for (const way of ways.filter((_, index) => index !== 4)) await walk(way, (stage) => !DEAD.test(stage));
    await walk(`${half.board}/tests`, () => true);
    const again = await post(`${ways[3]}/readings`, { step: "zs", id: crypto.randomUUID(), typed: "0.55", entered_by: "Maud Ferrow" });
    assert.equal(again.status, 303);
    await page.goto(`${server.base}${half.path}/review`);
    await page.getByText(/higher than this circuit should give/).waitFor();
    const blocked = await post(`${half.path}/certificate`, { confirm: "yes" });
    assert.ok([409, 422].includes(blocked.status), "odd and not judged: blocked");
    await page.getByRole("checkbox", { name: /^Judge: Way 4/ }).check();
    await page.getByLabel("Why it may stand as it is").fill("Plug contact of the adapter; the isolator reads 0.32 Ω");
    await page.locator("form").filter({ has: page.getByRole("button", { name: "Write the judgement down" }) }).getByLabel("By", { exact: true }).fill("Maud Ferrow");
    await save("Write the judgement down");
    await page.getByText("Nothing blocks a certificate").waitFor();
  });

  const papers = {};
  async function issue(number, because) {
    await page.goto(`${server.base}${half.path}/certificate`);
    for (const role of ["Design", "Construction", "Inspection and testing"]) {
      await page.getByLabel(`${role}: name`).fill("Maud Ferrow");
      await page.getByLabel(`${role}: position`).fill("Qualified supervisor");
    }
    if (because) await page.getByLabel(/Why the one in force is replaced/).fill(because);
    const pad = page.getByRole("img", { name: "Signature for Design", exact: true });
    const box = await pad.boundingBox();
    await page.mouse.move(box.x + 20, box.y + 40);
    await page.mouse.down();
    for (let x = 20; x < 180; x += 10) await page.mouse.move(box.x + x, box.y + 20 + (x % 40));
    await page.mouse.up();
    await page.getByRole("checkbox", { name: /seen the draft/ }).check();
    await save("Issue the certificate");
    await page.getByRole("rowheader", { name: number }).waitFor();
    for (const kind of ["pdf", "job", "xlsx", "csv", "ics"]) {
      const answer = await fetch(`${server.base}${half.path}/certificates/${number}/${kind}`);
      assert.equal(answer.status, 200, kind);
      papers[kind] = join(folder, `${number}.${kind}`);
      writeFileSync(papers[kind], Buffer.from(await answer.arrayBuffer()));
    }
    // A job of the demo is sealed with the key that everybody has.
    papers.key = "demonstration";
  }
  const verify = (file) => spawnSync(program, ["verify", file, "--key", papers.key], { encoding: "utf8" });
  const onPage = async (file) => {
    await page.goto(`${server.base}/verify`);
    await page.getByLabel("The PDF, or the job file that goes with it").setInputFiles(file);
    await save("Verify the file");
    return page.locator("main").innerText();
  };

  await t.test("issued; the job inside is the job; independent tools read every paper", async () => {
    await issue("G-102-C1");
    const said = execFileSync("pdftotext", ["-layout", papers.pdf, "-"], { encoding: "utf8" });
    for (const words of ["Not covered, left dead and locked", "Outstanding on way 1 Lights: lamp over the stair", "Plug contact of the adapter", "Maud Ferrow"]) assert.ok(said.replace(/\s+/g, " ").includes(words), words);
    const pages = said.split("\f").filter((one) => one.trim());
    assert.ok(pages.length > 3 && pages.every((one) => one.includes("Demonstration: no record of work")), "marked on every page");
    execFileSync("pdfdetach", ["-saveall", "-o", folder, papers.pdf]);
    const inside = JSON.parse(readFileSync(join(folder, "G-102-C1.job.json"), "utf8")).job;
    assert.deepEqual(inside, await job(), "the attachment is the job");
    execFileSync("pdftoppm", ["-r", "200", "-f", "1", "-l", "1", "-png", papers.pdf, join(folder, "front")]);
    const front = execFileSync("bash", ["-c", `ls ${folder}/front*.png`], { encoding: "utf8" }).trim();
    const code = execFileSync("zbarimg", ["-q", "--raw", front], { encoding: "utf8" }).trim();
    assert.match(code, /^PROOF1-DEMONSTRATION\|G-102-C1\|/);
    const withCode = spawnSync(program, ["verify", papers.pdf, "--key", papers.key, "--code", code], { encoding: "utf8" });
    assert.equal(withCode.status, 0, withCode.stdout + withCode.stderr);
    if (process.env.PYTHON) {
      const read = execFileSync(process.env.PYTHON, [join(import.meta.dirname, "../scripts/papers.py"), papers.pdf, papers.job, papers.xlsx, papers.csv], { encoding: "utf8" });
      assert.match(read, /2 attachments/);
    }
    assert.match(readFileSync(papers.ics, "utf8"), /DTSTART;VALUE=DATE:\d{8}/);
  });

  await t.test("one byte altered is seen, by the program and by the page", async () => {
    for (const kind of ["pdf", "job"]) {
      const whole = readFileSync(papers[kind]);
      assert.equal(verify(papers[kind]).status, 0);
      assert.match(await onPage(papers[kind]), /issued, unaltered/);
      for (const at of [200, Math.floor(whole.length / 2), whole.length - 40]) {
        const altered = Buffer.from(whole);
        altered[at] ^= 1;
        const path = join(folder, `altered.${kind}`);
        writeFileSync(path, altered);
        assert.notEqual(verify(path).status, 0, `${kind}, byte ${at}`);
        assert.match(await onPage(path), /not verified|Not verified|altered|neither/i, `${kind}, byte ${at}`);
      }
    }
  });

  await t.test("replaced by a new issue that names the old", async () => {
    const refused = await post(`${half.path}/certificate`, { confirm: "yes", name_design: "x", position_design: "x", name_construction: "x", position_construction: "x", name_inspection: "x", position_inspection: "x" });
    assert.equal(refused.status, 409);
    assert.match(await refused.text(), /say why it is replaced/);
    const first = papers.pdf;
    await issue("G-102-C2", "name of the client was incomplete");
    const said = execFileSync("pdftotext", ["-layout", papers.pdf, "-"], { encoding: "utf8" }).replace(/\s+/g, " ");
    assert.ok(said.includes("replaces G-102-C1: name of the client was incomplete"), "the new one names the old");
    assert.match(await onPage(first), /replaced by G-102-C2/);
    await page.goto(`${server.base}/verify?code=G-102-C1`);
    assert.match(await page.locator("main").innerText(), /replaced by G-102-C2/);
  });

  await t.test("nothing was wrong on the way", () => assert.deepEqual(wrong, []));
});

test("minor works: one circuit of an alteration, and none of a new installation", async () => {
  const { "G-103": altered, "G-102": fresh } = await demoJobs(server.base);
  assert.match(await text(`${altered.path}/certificate`), /Minor works certificate: way 4/);
  assert.doesNotMatch(await text(`${fresh.path}/certificate`), /Minor works certificate/);
  const way = altered.way[4].split("/").at(-1);
  const minor = await text(`${altered.path}/certificate?form=${way}`);
  assert.match(minor, /Way 4 Casing-in bench/);
  assert.doesNotMatch(minor, /Way 3 Sewing benches<\/td>/, "the other circuit is not its matter");
  const draft = await fetch(`${server.base}${altered.path}/certificate/draft.pdf?form=${way}`);
  const path = join(folder, "minor.pdf");
  writeFileSync(path, Buffer.from(await draft.arrayBuffer()));
  const said = execFileSync("pdftotext", ["-layout", path, "-"], { encoding: "utf8" });
  assert.match(said, /Minor electrical works certificate/);
});

/** The last cells of the tables of docs/CERTIFICATE.md under a heading. */
function printed(column) {
  const labels = [];
  let wanted = false;
  for (const line of readFileSync(join(import.meta.dirname, "../docs/CERTIFICATE.md"), "utf8").split("\n")) {
    const cells = line.split("|").map((cell) => cell.trim());
    if (cells.length < 5) continue;
    if (cells[1] === "item") wanted = cells[3] === column;
    else if (wanted && !cells[1].startsWith("---")) labels.push(cells[3]);
  }
  assert.ok(labels.length >= 5, column);
  return labels;
}

// A change of words on paper is one review: `UPDATE=1 npm test` writes what the papers say now.
test("what the papers say, word for word", async () => {
  const { "G-101": finished, "G-103": altered } = await demoJobs(server.base);
  const way = altered.way[4].split("/").at(-1);
  const drafts = { "installation-certificate": `${finished.path}/certificate/draft.pdf`, "minor-works": `${altered.path}/certificate/draft.pdf?form=${way}` };
  for (const [name, address] of Object.entries(drafts)) {
    const path = join(folder, `${name}.pdf`);
    writeFileSync(path, Buffer.from(await (await fetch(server.base + address)).arrayBuffer()));
    const said = execFileSync("pdftotext", ["-raw", path, "-"], { encoding: "utf8" })
      .replace(/\d{4}-\d{2}-\d{2}( \d{2}:\d{2})?|\d{1,2} (January|February|March|April|May|June|July|August|September|October|November|December) \d{4}/g, "DATE")
      .replaceAll("\f", "\n---- page ----\n");
    const kept = join(import.meta.dirname, "papers", `${name}.txt`);
    // Every item of the forms is on paper where the document says.
    const column = name === "minor-works" ? "printed as minor" : "printed as";
    const plain = said.replace(/\s+/g, " ");
    for (const label of printed(column)) assert.ok(plain.includes(label), `${name} does not print “${label}”`);
    if (process.env.UPDATE) writeFileSync(kept, said);
    assert.equal(said, readFileSync(kept, "utf8"), `${name}: see the change and keep it with UPDATE=1`);
  }
});
