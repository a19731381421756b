// An instrument joined to the run, by the screen: its readings drop into the card; what does not fit is told; what is
// being typed stays; a cut line is said and called again. And its log, looked at and taken.
import assert from "node:assert/strict";
import { spawn } from "node:child_process";
import { writeFile } from "node:fs/promises";
import { join } from "node:path";
import { after, before, test } from "node:test";
import { browser, demoJobs, freePort, program, spokenTo, start, violations, visitor } from "./harness.mjs";

let server, chrome, half, faulty;
before(async () => {
  server = await start("demo");
  chrome = await browser();
  ({ "G-102": half, "G-103": faulty } = await demoJobs(server.base));
});
after(async () => {
  await chrome?.close();
  await server?.stop();
});

/** A simulated instrument that presses what it is told. */
const instrument = (port, memory) => {
  const child = spawn(program, ["instrument", "--as", "MFT-2", "--listen", `127.0.0.1:${port}`, "--memory", memory], { stdio: ["pipe", "pipe", "ignore"] });
  let said = "";
  child.stdout.on("data", (text) => (said += text));
  return {
    press: (line) => child.stdin.write(`${line}\n`),
    says: async (text) => {
      for (let tries = 0; !said.includes(text); tries += 1) {
        assert.ok(tries < 200, `the instrument never said “${text}”: ${said}`);
        await new Promise((go) => setTimeout(go, 50));
      }
    },
    stop: () => new Promise((done) => (child.once("exit", done), child.kill("SIGKILL"))),
  };
};

const opened = (options) => visitor(chrome, server.base, half.path, options);

/** Joins an instrument to a run by touch. */
const joined = async (page, job, port) => {
  await page.goto(`${server.base}${job.path}/run`);
  await page.locator("#feed summary").tap();
  await page.getByLabel("Where it listens").fill(`127.0.0.1:${port}`);
  await page.getByRole("button", { name: "Join it" }).tap();
};

/** Leaves it. */
const left = async (page) => {
  await page.locator("#feed > details > summary").tap();
  await page.getByRole("button", { name: "Leave the instrument" }).tap();
  await page.locator("details#feed").waitFor();
};

const readings = async () => (await (await fetch(`${server.base}${half.path}/job.json`)).json()).job.readings;

test("readings drop into the card, and what is typed stays", async () => {
  const [port, memory] = [await freePort(), join(server.folder, "memory.jsonl")];
  let tester = instrument(port, memory);
  const { page, wrong } = await opened({ viewport: { width: 1280, height: 800 } });
  await page.goto(`${server.base}${half.path}/run`);
  await page.locator("#feed summary").click();
  // What is wrong with the form is told where it is seen, and it keeps what was typed.
  await page.getByLabel("Where it listens").fill("example.org:80");
  await page.getByRole("button", { name: "Join it" }).click();
  await page.getByText("this machine or of a private network").first().waitFor();
  assert.ok(await page.getByText("Not joined: see what is marked.").evaluate((one) => one.getBoundingClientRect().bottom < innerHeight), "in view");
  assert.equal(await page.getByLabel("Where it listens").inputValue(), "example.org:80");
  await page.getByLabel("Where it listens").fill(`127.0.0.1:${port}`);
  await page.getByRole("button", { name: "Join it" }).click();
  await page.locator("#feed .feed-line").getByText("joined", { exact: true }).waitFor();
  assert.deepEqual(await violations(page), []);
  // Who only looks on, at another card, changes nothing of where the readings go.
  const other = await opened({ viewport: { width: 1280, height: 800 } });
  await other.page.goto(`${server.base}${half.path}/run?of=${half.way[3].split("/").at(-1)}&at=r2-p3`);
  await other.page.locator("#feed .feed-line").waitFor();
  // Asked twice, with nothing new: the card stands.
  await other.page.waitForTimeout(2500);
  for (const one of [page, other.page]) assert.equal(await one.locator("#run").count(), 1);
  const before = (await readings()).length;
  tester.press("insulation >999 megohm L-E 500V");
  await page.getByText("1 taken").waitFor();
  await page.locator(".run-verdict").getByText(">999").waitFor();
  // Who looks on keeps the card, and is told.
  await other.page.getByText("1 taken").waitFor();
  assert.equal(await other.page.locator("#run [name=step]").first().inputValue(), "r2-p3");
  // Another pair than the card's is its own: the run finds it.
  tester.press("insulation >999 megohm N-E 500V");
  await page.getByText("2 taken").waitFor();
  tester.press("low_resistance 0.34 ohm L-E");
  await page.locator("#feed .note").getByText("takes insulation resistance").waitFor();
  tester.press("insulation >999 megohm L-N 250V");
  await page.locator("#feed .note").getByText("it was read at 250 V").waitFor();
  assert.equal((await readings()).length, before + 2);
  // Nothing is drawn over what is being typed.
  await page.locator("#typed").fill("0.5");
  tester.press("insulation >999 megohm L-N 500V");
  await page.getByText("More has come in").waitFor();
  assert.equal(await page.locator("#typed").inputValue(), "0.5");
  await page.locator("#typed").fill("");
  await page.getByText("3 taken").waitFor();
  // Switched off and on again: said, called again, and the same reading sent again is the same.
  await tester.stop();
  await page.getByText("no line").waitFor();
  tester = instrument(port, memory);
  await page.locator("#feed .feed-line").getByText("joined", { exact: true }).waitFor();
  const all = await readings();
  assert.equal(all.length, before + 3);
  assert.ok(all.slice(before).every((one) => one.context.simulated && one.context.origin === "instrument" && one.context.entered_by === "Idris Kell"));
  await page.locator("#feed > details > summary").click();
  await page.getByRole("button", { name: "Leave the instrument" }).click();
  await page.locator("details#feed").waitFor();
  // The page that looked on is loaded again.
  await other.page.locator("details#feed").waitFor();
  assert.deepEqual([...wrong, ...other.wrong], []);
  await other.page.context().close();
  await tester.stop();
  await page.context().close();
});

test("on a phone, without scripts, it is joined, seen and left", async () => {
  const port = await freePort();
  const tester = instrument(port, join(server.folder, "phone.jsonl"));
  const { page, wrong } = await opened({ viewport: { width: 390, height: 844 }, hasTouch: true, isMobile: true, javaScriptEnabled: false });
  await joined(page, half, port);
  tester.press("loop 0.34 ohm");
  await tester.says("refused");
  await page.getByRole("link", { name: "Look again" }).tap();
  await page.getByText("1 not taken").waitFor();
  assert.ok(await page.evaluate(() => document.documentElement.scrollWidth <= innerWidth), "no wider than the phone");
  await left(page);
  assert.deepEqual(wrong, []);
  await tester.stop();
  await page.context().close();
});

test("Ze of an instrument is held in its field, and filed when the earth is back on", async () => {
  const port = await freePort();
  const tester = instrument(port, join(server.folder, "ze.jsonl"));
  const { page, wrong } = await visitor(chrome, server.base, faulty.path, { viewport: { width: 390, height: 844 }, hasTouch: true, isMobile: true });
  await joined(page, faulty, port);
  await page.locator("#feed .feed-line").getByText("joined", { exact: true }).waitFor();
  await page.goto(`${server.base}${faulty.path}/origin/ze`);
  await spokenTo(page);
  await page.getByRole("button", { name: /expose the supply/ }).tap();
  const ze = page.locator("#ze"), strip = page.locator("#ze-sent");
  await strip.getByText("joined", { exact: true }).waitFor();
  assert.deepEqual(await violations(page), []);
  tester.press("insulation >999 megohm L-E 500V");
  await strip.getByText("Ze alone is read until it is back on").waitFor();
  tester.press("loop 0.23 ohm L-E");
  await page.getByText("instrument sent 0.23 Ω").waitFor();
  assert.equal(await ze.inputValue(), "0.23");
  // What is typed stays, through what comes in and through a reload.
  await ze.fill("0.5");
  tester.press("loop 0.22 ohm L-E");
  await strip.getByText("came and is in no field").waitFor();
  assert.equal(await ze.inputValue(), "0.5");
  await page.reload();
  await strip.getByText("2 came in").waitFor();
  assert.equal(await ze.inputValue(), "0.5");
  await ze.fill("");
  tester.press("loop 0.21 ohm L-E");
  await page.getByText("instrument sent 0.21 Ω").waitFor();
  assert.equal(await ze.inputValue(), "0.21");
  // With the earth back on a loop is no Ze.
  await page.getByRole("checkbox", { name: /refitted/ }).check();
  tester.press("loop 0.17 ohm L-E");
  await strip.getByText("with it on a loop is no Ze").waitFor();
  assert.equal(await ze.inputValue(), "0.21");
  assert.ok(await page.evaluate(() => document.documentElement.scrollWidth <= innerWidth), "no wider than the phone");
  await page.getByRole("checkbox", { name: /refitted/ }).check();
  await page.getByRole("button", { name: /File the figures/ }).tap();
  await page.waitForURL(/last=ze/);
  const { job } = await (await fetch(`${server.base}${faulty.path}/job.json`)).json();
  const read = job.readings.at(-1);
  assert.deepEqual([read.typed, read.context.origin, read.context.simulated, read.context.entered_by], ["0.21", "instrument", true, "Idris Kell"]);
  await page.goto(`${server.base}${faulty.path}/run`);
  await left(page);
  assert.deepEqual(wrong, []);
  await tester.stop();
  await page.context().close();
});

test("a log is looked at, and taken when it is confirmed", async () => {
  const { page, wrong } = await opened({ viewport: { width: 1280, height: 800 } });
  const log = join(server.folder, "log.csv");
  await writeFile(
    log,
    "instrument,simulated,taken_at,measured,shown,unit,between,test_v,way,step\n" +
      "MFT-2,yes,2026-11-16T12:00:00Z,insulation,>999,megohm,L-E,500,2,\n" +
      "MFT-2,yes,2026-11-16T12:01:00Z,insulation,>999,megohm,L-E,500,99,\n",
  );
  await page.goto(`${server.base}${half.path}/run`);
  await page.locator("#feed summary").click();
  await page.getByRole("link", { name: "Bring in its log instead" }).click();
  await page.getByLabel("The log: CSV with heads, or JSON").setInputFiles(log);
  await page.getByRole("button", { name: "Look at it" }).click();
  await page.getByText("1 of 2 readings have a place").waitFor();
  await page.getByText("this job has no way 99").waitFor();
  assert.deepEqual(await violations(page), []);
  const before = (await readings()).length;
  await page.getByRole("button", { name: "Take this reading" }).click();
  await page.getByText("The readings of the log are stored.").waitFor();
  assert.equal((await readings()).length, before + 1);
  assert.deepEqual(wrong, []);
  await page.context().close();
});

test("each page says that it is a demonstration, and no firm's key is asked for", async () => {
  const { page } = await opened({});
  await page.goto(`${server.base}${half.path}/certificate`);
  await page.getByText("Demonstration: no record of work").waitFor();
  assert.equal(await page.getByLabel("Passphrase of the signing key").count(), 0);
  await page.context().close();
});
