import pg from 'pg';
import { By } from 'selenium-webdriver';
import { at, later, line, ms, open, plainServer, wait } from './inBrowser.mjs';
import { inTurn, median, sentBytes, signedIn, tell } from './lib.mjs';
import { picture } from './picture.mjs';

const TABLES = 2000;
const COLUMNS = 20;
const LAYERS = 10;

/** A warehouse of ten layers from four sources, twenty columns a table, each carried from column to column; its first layer reads one table, around which all of it stands. */
export async function makeWarehouse(client) {
  const ask = async (sql, bind) => (await client.query(sql, bind)).rows;
  const [{ id: domain }] = await ask("insert into domain (name) values ('Layers') returning id");
  const { arrows } = picture(TABLES);
  await ask('create temp table box (n int primary key, id uuid not null default gen_random_uuid(), source uuid)');
  for (let quarter = 0; quarter < 4; quarter += 1)
    await ask(
      `with made as (
         insert into source (name, kind, address, domain_id)
         values ('Layers ' || $1::int, 'postgresql', '{"host": "127.0.0.1", "port": 1, "database": "layers"}', $2)
         returning id
       )
       insert into box (n, source) select n, made.id from made, generate_series($1::int * ${TABLES / 4}, ($1::int + 1) * ${TABLES / 4} - 1) n`,
      [quarter, domain],
    );
  await ask('insert into box (n, source) select -1, source from box where n = 0');
  await ask(
    `insert into asset (source_id, domain_id, kind, name, key, depth)
     select distinct source, $1::uuid, 'schema', 'layer_' || greatest(n, 0) * ${LAYERS} / ${TABLES}, 'layer_' || greatest(n, 0) * ${LAYERS} / ${TABLES}, 0 from box`,
    [domain],
  );
  await ask(
    `insert into asset (id, source_id, domain_id, parent_id, kind, name, key, depth)
     select b.id, b.source, $1, s.id, case when n < ${TABLES / LAYERS} then 'table' else 'view' end, 'box_' || n, s.key || chr(31) || 'box_' || n, 1
     from box b
     join asset s on s.source_id = b.source and s.kind = 'schema' and s.name = 'layer_' || greatest(n, 0) * ${LAYERS} / ${TABLES}`,
    [domain],
  );
  await ask('create temp table field (n int, k int, id uuid not null default gen_random_uuid(), primary key (n, k))');
  await ask(`insert into field (n, k) select n, k from box, generate_series(1, ${COLUMNS}) k`);
  await ask(
    `insert into asset (id, source_id, domain_id, parent_id, kind, name, key, depth, position, native)
     select f.id, t.source_id, t.domain_id, t.id, 'column', 'field_' || k, t.key || chr(31) || 'field_' || k, 2, k, '{"type": "text"}'
     from field f join box b using (n) join asset t on t.id = b.id`,
  );
  await ask(
    "insert into flow (source_id, asset_id, kind, statement) select source, id, 'view', 'select … from …' from box where n >= 0",
  );
  await ask(
    `insert into lineage_edge (flow_id, from_id, to_id, kind)
     select distinct f.id, a.id, c.id, 'copied'
     from unnest($1::int[], $2::int[]) x(source, target)
     join box t on t.n = x.target
     join flow f on f.asset_id = t.id
     join field c on c.n = x.target
     join field a on a.n = x.source and a.k = c.k`,
    [
      [...arrows.map(([from]) => Number(from.slice(1))), ...Array(TABLES / LAYERS).fill(-1)],
      [...arrows.map(([, to]) => Number(to.slice(1))), ...Array.from({ length: TABLES / LAYERS }, (_, n) => n)],
    ],
  );
  await ask('analyze');
  const idOf = async (n) => (await ask('select id from box where n = $1', [n]))[0].id;
  return { hub: await idOf(-1), column: (await ask('select id from field where n = -1 and k = 1'))[0].id };
}

/** Moves the picture by the mouse, so many pixels a frame, there and back. */
const PAN = `(() => {
  const pane = document.querySelector('.react-flow__pane');
  const send = (type, x) => (type === 'mousedown' ? pane : window).dispatchEvent(
    new MouseEvent(type, { bubbles: true, cancelable: true, view: window, button: 0, buttons: 1, clientX: x, clientY: 500 }));
  let x = 600, by = -24;
  send('mousedown', x);
  return () => { if (x < 200 || x > 1100) by = -by; x += by; send('mousemove', x); };
})()`;
/** Zooms in and out by the wheel. */
const ZOOM = `(() => {
  const pane = document.querySelector('.react-flow__pane');
  let n = 0;
  return () => { n += 1; pane.dispatchEvent(new WheelEvent('wheel', { bubbles: true, cancelable: true, view: window, clientX: 600, clientY: 450, deltaY: Math.floor(n / 20) % 2 ? -40 : 40 })); };
})()`;

/** A picture of two thousand tables with twenty columns each: asked for over HTTP, opened in a browser, moved and zoomed there. */
export async function run(adminUrl, address) {
  const url = new URL(adminUrl);
  url.pathname = '/idrel';
  const client = new pg.Client(url.href);
  await client.connect();
  const made = await makeWarehouse(client);
  const lines = [];
  const send = await signedIn(address, 'Jorun Pell');
  const path = `/lineage?focus=${made.hub}&upstream=3&downstream=20`;
  const whole = JSON.parse(await send('GET', path));
  if (whole.nodes.length !== TABLES + 1 || !whole.coarse) throw new Error(`${whole.nodes.length} tables came`);
  const ids = whole.nodes.map(({ id }) => id);
  const names = () => client.query('select id, name, kind from asset where id = any($1::uuid[])', [ids]);
  const [own, bare] = await inTurn(7, [() => send('GET', path), names]);
  lines.push(
    tell(
      `A picture of ${ids.length} tables with ${whole.links.length} edges between them, over HTTP (${Math.round((await sentBytes(address, 'Jorun Pell', path)) / 1000)} kB), against their bare names`,
      own,
      bare,
      '–',
    ),
  );
  const body = { tables: [made.hub], among: ids };
  const columnsOf = () =>
    client.query("select id, name from asset where parent_id = $1 and kind = 'column'", [made.hub]);
  const [some, plainly] = await inTurn(7, [() => send('POST', '/lineage/columns', body), columnsOf]);
  const told = JSON.parse(await send('POST', '/lineage/columns', body));
  if (told.tables[0].columns.length !== COLUMNS || told.links.length !== (COLUMNS * TABLES) / LAYERS)
    throw new Error(`${told.links.length} edges came`);
  lines.push(tell(`The columns of one of them, with ${told.links.length} edges`, some, plainly, 'under 150 ms'));
  const way = `${path}&column=${made.column}`;
  const along = JSON.parse(await send('GET', way));
  const [walked, bareWay] = await inTurn(5, [() => send('GET', way), names]);
  lines.push(
    tell(
      `A column of it followed: the ${along.nodes.length} nearest tables on its way, with columns`,
      walked,
      bareWay,
      '–',
    ),
  );

  const plain = await plainServer();
  const { driver } = await open();
  try {
    const frames = (script) => later(driver, 'window.frames(4000, (0, eval)(arguments[0]))', script);
    await driver.get(`${plain.address}/boxes?n=${ids.length}`);
    const { frames: reference } = await frames('moveBoxes');
    await driver.get(address);
    await later(driver, "window.seen('button')");
    await driver.findElement(By.xpath('//button[normalize-space()="Jorun Pell"]')).click();
    await later(driver, "window.seen('.shell')");
    const opened = [];
    const tasks = [];
    for (let round = 0; round < 4; round += 1) {
      await driver.get('about:blank');
      await driver.get(`${address}/lineage?focus=${made.hub}&up=3&down=20`);
      const took = await later(driver, 'window.seen(arguments[0])', `[data-id="${made.hub}"] .columns li`);
      if (round > 0) opened.push(took);
      if (round > 0)
        tasks.push(Math.max(0, ...(await driver.executeScript('return watched.tasks.map((task) => task.took)'))));
    }
    lines.push(
      line(
        `In the browser: the picture of ${ids.length} tables opened, until columns of what it is about stand there`,
        `${ms(median(opened))}, longest task ${ms(median(tasks))}`,
        '–',
        '–',
        'under 1500 ms',
      ),
    );
    const shown = () => driver.executeScript("return document.querySelectorAll('.react-flow__node-table').length");
    const moved = (name, { frames: list, tasks: long }, there) =>
      lines.push(
        line(
          `In the browser: ${name} (${there} of ${ids.length} tables in the page), a frame`,
          `${ms(median(list))}, 95 of 100 within ${ms(at(list, 0.95))}, longest task ${ms(Math.max(0, ...long))}`,
          `${ms(median(reference))}, 95 of 100 within ${ms(at(reference, 0.95))}, ${ids.length} bare boxes`,
          (median(list) / median(reference)).toFixed(2),
          'no frame dropped',
        ),
      );
    await wait(500);
    const release = () =>
      driver.executeScript("window.dispatchEvent(new MouseEvent('mouseup', { bubbles: true, view: window }))");
    moved('it is moved where names can be read', await frames(PAN), await shown());
    await release();
    await wait(300);
    moved('it is zoomed', await frames(ZOOM), await shown());
    await driver.findElement(By.css('.react-flow__controls-fitview')).click();
    await wait(1500);
    moved('it is moved, seen from afar', await frames(PAN), await shown());
    await release();
  } finally {
    await driver.quit();
    plain.close();
    await client.end();
  }
  return lines.join('\n');
}
