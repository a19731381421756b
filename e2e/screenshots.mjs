// Makes docs/screenshots anew from the demo data: node e2e/screenshots.mjs
import { execFileSync, spawn } from "node:child_process";
import { writeFile } from "node:fs/promises";
import { join, resolve } from "node:path";
import { browser, demoJobs, freePort, program, putOff, spokenTo, start } from "./harness.mjs";

const into = resolve(import.meta.dirname, "../docs/screenshots");
const server = await start("demo");
const chrome = await browser();
const { "G-101": done, "G-102": half, "G-103": faulty, "G-104": searched } = await demoJobs(server.base);

const shots = [
  ["job", half.path],
  ["board", half.board],
  ["circuit-ring", `${done.way[3]}?at=r2-p10`],
  ["circuit-fault", `${faulty.way[3]}?at=r2-p4`, 1280, 860],
  ["run-phone", `${half.path}/run?of=${half.way[3].split("/").at(-1)}&at=rn-p3`, 390, 844, "light", "Nulled"],
  ["begin", `${half.path}/begin?from=house-and-outbuilding`],
  ["run-search", `${searched.path}/run`, 820, 640],
  ["isolate", `${searched.board}/isolate`],
  ["live", `${done.way[3]}?at=rcd-1`, 1280, 900],
  ["sheet", `${half.board}/sheet`],
  ["energise", `${half.board}/energise`, 1280, 900],
  ["review", `${faulty.path}/review`],
  ["certificate", `${done.path}/certificate`],
  ["tried", `${faulty.way[3]}/bench?wrong=joint&core=E&place=3&ohm=0.3`],
  ["tablet-dark", `${done.way[7]}?at=r2-p2`, 820, 1180, "dark"],
  ["ze-phone", `${faulty.path}/origin/ze`, 390, 844, "light", "Earth disconnected: expose the supply", "#ze"],
];
for (const [name, path, width = 1280, height = 800, colorScheme = "light", press = "", then = "#entry"] of shots) {
  const touch = width < 1000;
  const context = await chrome.newContext({ viewport: { width, height }, colorScheme, hasTouch: touch, isMobile: touch });
  await context.addCookies([
    { name: "writer", value: "Maud+Ferrow", url: server.base },
    { name: "reader", value: "Idris+Kell", url: server.base },
    // The card of the day is put off.
    { name: "not_today", value: putOff(path), url: server.base },
  ]);
  const page = await context.newPage();
  await page.goto(server.base + path, { waitUntil: "networkidle" });
  if (press) {
    await spokenTo(page);
    await page.getByRole("button", { name: press, exact: true }).click();
    await page.locator(then).waitFor();
  }
  await page.screenshot({ path: join(into, `${name}.png`) });
  await context.close();
}
// The bench: a ring with its legs crossed, a point read; the seed is always the same.
{
  const page = await (await chrome.newContext({ viewport: { width: 1280, height: 900 } })).newPage();
  await page.goto(`${server.base}/practice`);
  await page.locator("#f-by").fill("Tova Brandreth");
  await page.evaluate(() => document.querySelector("form[action='/practice']").insertAdjacentHTML("beforeend", '<input type="hidden" name="seed" value="4">'));
  await page.locator("button[value=ring]").click();
  await page.waitForURL(/practice\/[0-9a-f-]{36}/);
  for (const id of ["k-low", "null", "s-tail-L", "s-tail-N", "s-tail-E", "t-w1t1-L", "t-w1t2-E", "u-probes", "t-w1t1-E", "t-w1t2-L", "u-probes", "t-w1p2-L", "t-w1p2-E", "press", "hand"]) {
    const at = await page.locator("input[name=at]").inputValue();
    await page.locator(`[id="${id}"]`).click();
    await page.waitForFunction((at) => document.querySelector("input[name=at]").value !== at, at);
  }
  await page.evaluate(() => window.scrollTo(0, 0));
  await page.screenshot({ path: join(into, "bench.png") });
}
// An instrument joined to a run: two readings taken, one that does not belong to the card.
{
  const port = await freePort();
  const script = join(server.folder, "script.txt");
  await writeFile(script, "insulation >999 megohm L-E 500V\ninsulation >999 megohm N-E 500V\nlow_resistance 0.34 ohm L-E\n");
  const instrument = spawn(program, ["instrument", "--as", "MFT-2", "--listen", `127.0.0.1:${port}`, "--script", script], { stdio: "ignore" });
  const context = await chrome.newContext({ viewport: { width: 1280, height: 800 } });
  await context.addCookies([
    { name: "writer", value: "Maud+Ferrow", url: server.base },
    { name: "not_today", value: putOff(half.path), url: server.base },
  ]);
  const page = await context.newPage();
  await page.goto(`${server.base}${half.path}/run`);
  await page.locator("#feed summary").click();
  await page.getByLabel("Where it listens").fill(`127.0.0.1:${port}`);
  await page.getByRole("button", { name: "Join it" }).click();
  await page.getByText("2 taken, 1 not taken").waitFor();
  await page.screenshot({ path: join(into, "run-feed.png") });
  instrument.kill();
}
const pdf = join(server.folder, "certificate.pdf");
await writeFile(pdf, Buffer.from(await (await fetch(`${server.base}${done.path}/certificates/G-101-C1/pdf`)).arrayBuffer()));
execFileSync("pdftoppm", ["-png", "-r", "80", "-f", "1", "-l", "1", "-singlefile", pdf, join(into, "certificate-pdf")]);
await chrome.close();
await server.stop();
