// Two people on one job in two browsers: what one changed is shown to the other before it is replaced. And what
// follows a page: the plan of the run when it is opened, what explains odd readings when it is worked out.
import assert from "node:assert/strict";
import { after, before, test } from "node:test";
import { browser, demoJobs, read, start, violations, visitor } from "./harness.mjs";

let server, chrome, half;
before(async () => {
  server = await start("demo");
  chrome = await browser();
  ({ "G-102": half } = await demoJobs(server.base));
});
after(async () => {
  await chrome?.close();
  await server?.stop();
});

const opened = (options) => visitor(chrome, server.base, half.path, options);

for (const javaScriptEnabled of [true, false]) {
  test(`two editors of one circuit see both, scripts ${javaScriptEnabled ? "on" : "off"}`, async () => {
    const [mine, theirs] = [await opened({ javaScriptEnabled }), await opened({ javaScriptEnabled })];
    const form = `${server.base}${half.way[2]}/edit`;
    await mine.page.goto(form);
    await theirs.page.goto(form);
    const store = (page) => page.locator("form.form button.primary").last().click();
    // The page takes what was done out of its address as soon as it stands: so it is waited for from before the press.
    const stored = (page) => Promise.all([page.waitForURL(/done=circuit/), store(page)]);
    const [said, other] = [`Benches, window side ${javaScriptEnabled}`, `Benches, north ${javaScriptEnabled}`];
    await theirs.page.getByLabel("What it is").fill(other);
    await theirs.page.getByLabel("Length").first().fill(javaScriptEnabled ? "61" : "62");
    await stored(theirs.page);
    await mine.page.getByLabel("What it is").fill(said);
    await store(mine.page);
    const clash = mine.page.locator(".clashes");
    await clash.waitFor();
    assert.deepEqual(await clash.locator("tbody tr").evaluateAll((rows) => rows.map((row) => [...row.cells].map((cell) => cell.innerText.trim()))), [
      ["description", other, said, "yours"],
      ["length", javaScriptEnabled ? "61" : "62", await clash.locator("tbody tr").nth(1).locator("td").nth(1).innerText(), "theirs"],
    ]);
    if (javaScriptEnabled) assert.deepEqual(await violations(mine.page), []);
    await stored(mine.page);
    const { job } = await (await fetch(`${server.base}${half.path}/job.json`)).json();
    const circuit = job.installation.circuits.find((one) => one.way === "2");
    assert.equal(circuit.description, said);
    assert.equal(String(circuit.length_m), javaScriptEnabled ? "61" : "62", "what only they changed stays");
    for (const { page, wrong } of [mine, theirs]) {
      assert.deepEqual(wrong, []);
      await page.context().close();
    }
  });
}

test("the plan comes when it is opened, and is a page without scripts", async () => {
  const { page, wrong } = await opened();
  await page.goto(`${server.base}${half.path}/run`);
  assert.equal(await page.locator(".run-group").count(), 0, "the card does not carry it");
  await page.locator("details.run-plan > summary").click();
  await page.locator(".run-group").first().waitFor();
  assert.ok((await page.locator(".run-group").count()) > 10);
  await page.locator(".run-group > summary").first().click();
  const asked = await page.locator(".run-group a").first().getAttribute("href");
  await page.locator(".run-group a").first().click();
  await page.waitForURL(`${server.base}${asked}`);
  await page.locator(".run-card").first().waitFor();
  assert.deepEqual(wrong, []);
  await page.context().close();
  const plain = await opened({ javaScriptEnabled: false });
  await plain.page.goto(`${server.base}${half.path}/run`);
  await plain.page.locator("details.run-plan > summary").click();
  await plain.page.getByRole("link", { name: "Open the plan" }).click();
  await plain.page.getByRole("heading", { name: "The plan of the run" }).waitFor();
  assert.ok((await plain.page.locator(".run-group").count()) > 10);
  await plain.page.context().close();
});

test("what explains an odd reading follows it, and leaves the entry in hand", async () => {
  const { page, wrong } = await opened();
  await page.goto(`${server.base}${half.way[3]}?at=r2-p1`);
  await read(page, "0.95");
  await page.keyboard.type("0.1");
  await page.locator(".diagnosis meter").first().waitFor();
  assert.equal(await page.locator("#typed").inputValue(), "0.1", "what is being typed stays");
  assert.equal(await page.evaluate(() => document.activeElement?.id), "typed");
  assert.ok((await page.locator("#profile .predicted").count()) > 0, "and is drawn over the readings");
  // Loaded again it is with the page.
  await page.reload();
  assert.ok((await page.locator(".diagnosis meter").count()) > 0);
  assert.deepEqual(wrong, []);
  await page.context().close();
});
