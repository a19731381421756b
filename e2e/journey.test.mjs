// From an empty database to a certificate, the readings by keyboard alone.
import assert from "node:assert/strict";
import { createPrivateKey, createPublicKey } from "node:crypto";
import { execFileSync } from "node:child_process";
import { readFile } from "node:fs/promises";
import { after, before, test } from "node:test";
import { PASSPHRASE, browser, read, spokenTo, start, watch } from "./harness.mjs";

let server, chrome, page, wrong;
before(async () => {
  server = await start("serve");
  chrome = await browser();
  page = await (await chrome.newContext({ viewport: { width: 1280, height: 800 }, acceptDownloads: true })).newPage();
  wrong = watch(page, server.base);
});
after(async () => {
  await chrome?.close();
  assert.equal(await server?.stop(), 0, "the program stops gracefully");
});

/** Nulls the leads in use, as the box beside the entry says; the eye goes back to the entry. */
async function nulled(leads) {
  const box = page.getByLabel(`leads nulled (${leads})`);
  await box.focus();
  if (!(await box.isChecked())) await page.keyboard.press("Space");
  await page.locator("#typed").focus();
}

async function save(button) {
  await Promise.all([page.waitForURL((url) => true, { waitUntil: "load" }), page.getByRole("button", { name: button }).click()]);
}

test("a job from nothing to its certificate", async (t) => {
  await t.test("the empty list teaches", async () => {
    await page.goto(server.base);
    await page.getByRole("heading", { name: "Begin" }).waitFor();
    await page.getByText("Say who you are and what you measure with").waitFor();
  });

  await t.test("firm, a person and an instrument", async () => {
    await page.goto(`${server.base}/firm`);
    await page.getByLabel("Trading name").fill("Lammas & Wren Electrical");
    await page.getByLabel("Address", { exact: true }).fill("9 Ropewalk, Brackwater");
    await save("Save the firm");
    await page.getByLabel("Name", { exact: true }).fill("Odile Wren");
    await page.getByLabel("Position or qualification").fill("Electrician");
    await save("Add the person");
    await page.getByLabel("Own reference").fill("MFT-9");
    await page.getByLabel("Kind").fill("multifunction tester");
    await page.getByLabel("Calibration due").fill("next spring");
    await save("Add the instrument");
    await page.getByText("is no date").waitFor();
    assert.equal(await page.getByLabel("Own reference").inputValue(), "MFT-9", "what was typed is kept");
    await page.getByLabel("Calibration due").fill("2027-04-30");
    await save("Add the instrument");
    await page.getByText("calibration due 2027-04-30").waitFor();
  });

  await t.test("a job with a wrong reference is given back, then made", async () => {
    await page.goto(`${server.base}/jobs/new`);
    await page.getByLabel("Reference").fill("studio 1/2");
    await page.getByLabel("Job", { exact: true }).fill("Garden studio supply");
    await page.getByLabel("Client").fill("Halyard Press & Bindery");
    await page.getByLabel("Site").fill("The Old Granary, Sluice Lane");
    await page.getByLabel("Main board").fill("Studio board");
    await save("Make the job");
    await page.getByText("letters (a–z), digits").waitFor();
    assert.equal(await page.getByLabel("Job", { exact: true }).inputValue(), "Garden studio supply");
    await page.getByLabel("Reference").fill("S-1");
    await save("Make the job");
    await page.getByRole("heading", { name: /S-1 Garden studio supply/ }).waitFor();
  });
  const job = page.url();

  await t.test("particulars, bonds", async () => {
    await page.goto(`${job}/particulars`);
    await page.getByLabel("Address of the site").fill("Sluice Lane, Brackwater");
    await page.getByLabel("Extent of the work").fill("Board and both circuits of the garden studio.");
    await page.getByLabel("Bonded part 1").fill("water");
    await page.getByLabel("Size of bond 1").fill("ten");
    await save("Save");
    await page.getByText("“ten” is not understood").waitFor();
    assert.equal(await page.getByLabel("Extent of the work").inputValue(), "Board and both circuits of the garden studio.");
    await page.getByLabel("Size of bond 1").fill("10");
    await page.getByLabel("Length of bond 1").fill("12");
    for (const [name, value] of [["supply_device", "BS 88-3 fuse"], ["supply_device_a", "100"], ["tails", "25"], ["earthing", "16"]]) await page.locator(`[name=${name}]`).fill(value);
    await page.getByLabel("Surge protection").selectOption("not_required");
    await save("Save");
    await page.getByText("Say why it is not required").waitFor();
    assert.equal(await page.locator("[name=tails]").inputValue(), "25");
    await page.locator("[name=surge_reason]").fill("assessed: underground supply");
    await page.getByLabel("Arc fault detection").selectOption("not_required");
    await page.locator("[name=arc_reason]").fill("no sleeping accommodation");
    await save("Save");
    await page.waitForURL(job);
  });

  await t.test("the board itself: where it is, its main switch", async () => {
    await page.getByRole("link", { name: /Studio board/ }).first().click();
    await page.getByText("The board itself").click();
    for (const [name, value] of [["location", "Garden studio, behind the door"], ["switch", "BS EN 60947-3 switch"], ["poles", "2"], ["switch_a", "100"]]) await page.locator(`[name=${name}]`).fill(value);
    await save("Save the board");
    await page.goto(job);
  });

  await t.test("two circuits, a line each; a line that is not understood says why", async () => {
    await page.getByRole("link", { name: /Studio board/ }).first().click();
    await page.getByLabel("A circuit in a line").fill("1 ring B33 2.5/1.5");
    await save("Add, another");
    await page.getByText("breakers are rated").waitFor();
    assert.equal(await page.getByLabel("A circuit in a line").inputValue(), "1 ring B33 2.5/1.5");
    await page.getByLabel("A circuit in a line").fill('1 ring RCBO B32 6kA 2.5/1.5 legs 6,9,4.5,11,12.5 ref C N1 E1 "Studio sockets"');
    await save("Add, another");
    await page.getByText("Added: way 1 Studio sockets").waitFor();
    await page.getByLabel("A circuit in a line").fill('2 radial RCBO B20 6kA 2.5/1.5 18m 2pts ref C N2 E2 sockets "Kiln corner"');
    await save("Add, another");
    await page.getByRole("link", { name: "Kiln corner" }).waitFor();
  });
  const board = page.url().split("#")[0];

  await t.test("a dead test waits for isolation; a reversed supply is called what it is", async () => {
    await page.goto(board);
    await page.getByRole("link", { name: "Studio sockets" }).click();
    await page.getByLabel("written by").fill("Odile Wren");
    await page.locator("#typed").fill(".32");
    await page.keyboard.press("Enter");
    await page.getByText("is not proved dead: this is a dead test").waitFor();
    assert.equal(await page.locator("#typed").inputValue(), ".32", "what was typed is kept");
    await page.evaluate(() => localStorage.clear());
    await page.goto(`${board}/isolate`);
    await save("Record what the indicator showed");
    await page.getByText("Nothing is proved until all of it is done").waitFor();
    for (const tick of [/loads off/, /main switch off/, /source, before/, /known source, after/]) await page.getByRole("checkbox", { name: tick }).check();
    await page.getByLabel("Lock, and who keeps the key").fill("padlock 3, key with Odile Wren");
    await page.getByLabel("By", { exact: true }).fill("Odile Wren");
    await page.getByLabel("L to N").fill("0");
    await page.getByLabel("L to E").fill("0");
    await page.getByLabel("N to E").fill("229");
    await save("Record what the indicator showed");
    await page.getByText(/single-pole device is off in a reversed supply/).waitFor();
    assert.equal(await page.locator(".band.dead").count(), 0);
    await page.getByLabel("N to E").fill("0");
    await save("Record what the indicator showed");
    await page.locator(".band.dead").waitFor();
  });

  await t.test("the ring by keyboard alone, one entry refused", async () => {
    await page.goto(board);
    await page.getByRole("link", { name: "Studio sockets" }).click();
    await nulled("clips");
    await read(page, ".32");
    await read(page, "0,32");
    await read(page, "1,000");
    await page.getByText("“1,000” is ambiguous").waitFor();
    assert.equal(await page.locator("#typed").inputValue(), "1,000", "what was typed is kept");
    await page.locator("#typed").selectText();
    await read(page, ".52");
    await read(page, ".16"); // at the board, then R1+Rn
    assert.equal(await page.getByLabel("leads nulled (plug-in lead L–N)").isChecked(), false, "other leads, another null");
    await nulled("plug-in lead L–N");
    for (const ohm of [".16", ".16", ".17", ".16"]) await read(page, ohm);
    await nulled("clips");
    await read(page, "0.00"); // line of a leg linked to its own CPC
    await page.getByText("a leg is linked to itself").first().waitFor();
    await page.locator("#step-back").click();
    await page.locator("#typed").focus();
    await read(page, ".20");
    await nulled("plug-in lead L–E");
    for (const ohm of [".20", ".21", ".21", ".21"]) await read(page, ohm); // R1+R2
    await read(page, ">999"); // polarity fell out of the two rounds
    await read(page, "OL");
    await read(page, "0.3"); // L–N: under the minimum
    await page.locator(".verdict .chip.outside").waitFor();
    await page.getByText("a neon indicator").waitFor();
    assert.match(await page.locator(".readout .major").innerText(), /0\.21/);
  });

  await t.test("the reading outside its limit blocks, and a repeat supersedes it", async () => {
    await page.goto(`${job}/review`);
    await page.getByRole("link", { name: /0\.3 MΩ: outside its limit/ }).click();
    await page.getByText("1 taken").waitFor();
    await page.locator("#typed").focus();
    await read(page, ">999");
    await page.goto(`${job}/review`);
    assert.equal(await page.getByText("outside its limit").count(), 0);
  });

  await t.test("the radial by keyboard alone", async () => {
    await page.goto(board);
    await page.getByRole("link", { name: "Kiln corner" }).click();
    await page.locator("#typed").focus();
    await nulled("plug-in lead L–N");
    for (const reading of [".14", ".27"]) await read(page, reading);
    await nulled("plug-in lead L–E");
    for (const reading of [".18", ".35", ">999", ">999", ">999"]) await read(page, reading);
  });

  await t.test("inspection in one go", async () => {
    await page.goto(`${job}/inspection`);
    await page.getByRole("group", { name: /Outdoor and garden/ }).getByRole("radio", { name: "departure" }).check();
    await save(/yes to all/);
    await page.getByText("A departure wants its reason").first().waitFor();
    await page.getByLabel(/Note: Outdoor and garden/).fill("Duct 450 mm deep beside the path, marked with tape.");
    await save(/yes to all/);
    await page.waitForURL(job);
  });

  await t.test("bonds dead; energising waits for what is in the way", async () => {
    await page.goto(`${job}/origin`);
    await page.locator("#typed").focus();
    await nulled("clips");
    await read(page, ".01");
    await nulled("long lead and probe"); // the water bond is 12 m away
    await read(page, ".02");
    await page.goto(`${board}/energise`);
    await page.getByText(/is not put back/).first().waitFor();
    await page.getByRole("checkbox", { name: /covers on/ }).check();
    await spokenTo(page);
    await save(/Energise what is ticked/);
    await page.getByText(/Not energised: \d+ things are to be done/).waitFor();
    await page.goto(board);
    assert.ok((await page.locator(".open li").count()) >= 4, "ends, cross, link, bond, earthing conductor");
    await page.getByRole("checkbox", { name: /above is back/ }).check();
    await page.locator("#by-all").fill("Odile Wren");
    await save(/Put back: all/);
  });

  await t.test("Ze with the earth off, filed when it is back on", async () => {
    await page.goto(`${job}/origin/ze`);
    await page.locator("#by").fill("Odile Wren");
    await spokenTo(page);
    await save(/expose the supply/);
    await page.locator(".band.exposed").waitFor();
    await page.locator("#ze").fill("250 A");
    await page.keyboard.press("Enter");
    assert.equal(await page.evaluate(() => document.activeElement.name), "refitted", "Enter goes to the earth, not past it");
    await page.reload();
    assert.equal(await page.locator("#ze").inputValue(), "250 A", "held through a reload");
    await save(/File the figures/);
    await page.getByText(/Refit the earthing conductor now/).waitFor();
    await page.getByRole("checkbox", { name: /refitted/ }).check();
    await save(/File the figures/);
    await page.getByText(/is not understood|Allowed/).first().waitFor();
    assert.equal(await page.locator("#ze").inputValue(), "250 A", "what was typed is kept");
    await page.locator("#ze").fill("21");
    await save(/File the figures/);
    await page.getByText(/looks like a current/).waitFor();
    await page.locator("#ze").fill("0,21");
    await save(/File the figures/);
    await page.locator(".band.not-proved").waitFor();
    await page.goto(`${job}/origin?at=supply-polarity`);
    await page.locator("#typed").focus();
    for (const reading of ["pass", "1.02", "0.22", "1.11"]) {
      await read(page, reading);
      if (reading === "1.02") await page.getByText("Loop impedance").first().waitFor();
    }
  });

  await t.test("energised, Zs, RCD, functional", async () => {
    await page.goto(`${board}/energise`);
    await page.getByText("Nothing is in the way").waitFor();
    await page.getByRole("checkbox", { name: /covers on/ }).check();
    await spokenTo(page);
    await save(/Energise what is ticked/);
    await page.locator(".band.energised").waitFor();
    for (const [name, zs] of [["Studio sockets", ".41"], ["Kiln corner", ".54"]]) {
      await page.goto(board);
      await page.getByRole("link", { name }).click();
      for (const [step, reading] of [["zs", zs], ["rcd-1", "22.4"], ["rcd-button", "pass"]]) {
        await page.goto(`${page.url().split("?")[0]}?at=${step}`);
        await page.locator("#typed").focus();
        await read(page, reading);
      }
    }
    await page.goto(`${board}/tests`);
    await page.locator("#typed").focus();
    for (const reading of ["pass", "pass"]) await read(page, reading);
    await page.goto(`${job}/review`);
    assert.match(await page.locator("main").innerText(), /Nothing is missing, nothing fails, nothing is odd/);
  });

  await t.test("signed, issued, downloaded, read back", async () => {
    await page.goto(`${job}/certificate`);
    await page.getByRole("link", { name: "make the firm's key" }).click();
    await page.getByLabel("Passphrase", { exact: true }).first().fill(PASSPHRASE);
    await page.getByLabel("The same again").first().fill(PASSPHRASE);
    await save("Make the firm's key");
    await page.goto(`${job}/certificate`);
    // Before anybody types a signature: the copy of the key is among what the certificate waits for.
    await page.getByRole("link", { name: /export the key/ }).waitFor();
    assert.equal(await page.getByLabel("Design: name").count(), 0);
    await page.goto(`${server.base}/firm/key`);
    const [kept] = await Promise.all([page.waitForEvent("download"), page.getByRole("button", { name: /Export the key/ }).click()]);
    // A library that this program does not use opens the copy with its passphrase, and with no other.
    const copy = await readFile(await kept.path(), "utf8");
    assert.match(copy, /BEGIN ENCRYPTED PRIVATE KEY/);
    const opened = createPublicKey(createPrivateKey({ key: copy, passphrase: PASSPHRASE })).export({ type: "spki", format: "pem" });
    assert.equal(opened.trim(), (await (await fetch(`${server.base}/firm/key/FIRM.pub`)).text()).trim());
    assert.throws(() => createPrivateKey({ key: copy, passphrase: "rope walked" }));
    await page.goto(`${job}/certificate`);
    assert.equal(await page.getByLabel("Design: name").inputValue(), "", "nobody signs who did not say so");
    await save("Issue the certificate");
    await page.getByText("Type the name of the person").first().waitFor();
    for (const role of ["Design", "Construction", "Inspection and testing"]) {
      await page.getByLabel(`${role}: name`).fill("Odile Wren");
      await page.getByLabel(`${role}: position`).fill("Electrician");
    }
    await page.getByRole("checkbox", { name: /seen the draft/ }).check();
    await page.getByLabel("Passphrase of the signing key").fill(PASSPHRASE);
    await save("Issue the certificate");
    await page.getByText("S-1-C1").first().waitFor();
    const [download] = await Promise.all([page.waitForEvent("download"), page.getByRole("link", { name: "PDF", exact: true }).click()]);
    const path = await download.path();
    const text = execFileSync("pdftotext", ["-layout", path, "-"], { encoding: "utf8" });
    for (const wanted of [
      "Certificate S-1-C1", "Lammas & Wren Electrical", "Halyard Press & Bindery", "Garden studio supply", "Odile Wren",
      "TN-C-S", "0.21 Ω", "1.11 kA", "Duct 450 mm deep", "Studio sockets", "Kiln corner", ">999", "BS EN 61009 B32", "page 1 of",
    ]) assert.ok(text.includes(wanted), `the PDF says “${wanted}”`);
    const row = text.split("\n").find((line) => /^\s*1\s+Studio sockets.*0\.32/.test(line));
    assert.match(row ?? "", /0\.32\s+0\.32\s+0\.52\s+0\.21\s+—\s+>999\s+>999\s+500\s+✓\s+0\.41\s+22\.4/);
    const pages = [...text.matchAll(/page (\d+) of (\d+)/g)];
    assert.ok(pages.length >= 4 && pages.every((m) => Number(m[2]) === pages.length));
    const [json] = await Promise.all([page.waitForEvent("download"), page.getByRole("link", { name: "snapshot", exact: true }).click()]);
    const certificate = JSON.parse(await readFile(await json.path(), "utf8"));
    assert.equal(certificate.number, "S-1-C1");
    assert.equal(certificate.job.readings.length, 40); // 18 on the ring with its repeats, 7 on the radial, 7 at the origin, 6 live, 2 of the board
  });

  await t.test("nothing was wrong on the way", () => assert.deepEqual(wrong, []));
});
