// Makes docs/screenshots anew from the demo data: node e2e/screenshots.mjs
import { execFileSync } from "node:child_process";
import { writeFile } from "node:fs/promises";
import { join, resolve } from "node:path";
import { browser, demoJobs, start } from "./harness.mjs";

const into = resolve(import.meta.dirname, "../docs/screenshots");
const server = await start("demo");
const chrome = await browser();
const { "G-101": done, "G-102": half, "G-103": faulty, "G-104": searched } = await demoJobs(server.base);

const shots = [
  ["jobs", "/"],
  ["job", half.path],
  ["board", half.board],
  ["circuit-ring", `${done.way[3]}?at=r2-p10`],
  ["circuit-fault", `${faulty.way[3]}?at=r2-p4`, 1280, 860],
  ["run-phone", `${half.path}/run?of=${half.way[3].split("/").at(-1)}&at=rn-p3`, 390, 844, "light", "Nulled"],
  ["run-make", `${half.path}/run?of=${half.way[3].split("/").at(-1)}&at=r2-board`],
  ["run-search", `${searched.path}/run`, 820, 640],
  ["isolate", `${searched.board}/isolate`],
  ["lighting", searched.way[1]],
  ["instrument", /\/firm\/instruments\/[0-9a-f-]{36}/.exec(await (await fetch(`${server.base}/firm`)).text())[0]],
  ["origin", `${done.path}/origin?at=ze`],
  ["inspection", `${half.path}/inspection`],
  ["review", `${faulty.path}/review`],
  ["certificate", `${done.path}/certificate`],
  ["describe", `${done.way[3]}/edit`],
  ["phone", `${half.way[3]}?at=r2-p1`, 390, 844],
  ["tablet-dark", `${done.way[7]}?at=r2-p2`, 820, 1180, "dark"],
];
for (const [name, path, width = 1280, height = 800, colorScheme = "light", press = ""] of shots) {
  const touch = width < 1000;
  const context = await chrome.newContext({ viewport: { width, height }, colorScheme, hasTouch: touch, isMobile: touch });
  await context.addCookies([
    { name: "writer", value: "Maud+Ferrow", url: server.base },
    { name: "reader", value: "Idris+Kell", url: server.base },
  ]);
  const page = await context.newPage();
  await page.goto(server.base + path, { waitUntil: "networkidle" });
  if (press) {
    await page.getByRole("button", { name: press, exact: true }).click();
    await page.locator("#entry").waitFor();
  }
  await page.screenshot({ path: join(into, `${name}.png`) });
  await context.close();
}
const pdf = join(server.folder, "certificate.pdf");
await writeFile(pdf, Buffer.from(await (await fetch(`${server.base}${done.path}/certificates/G-101-C1/pdf`)).arrayBuffer()));
execFileSync("pdftoppm", ["-png", "-r", "80", "-f", "1", "-l", "1", "-singlefile", pdf, join(into, "certificate-pdf")]);
await chrome.close();
await server.stop();
