import { mkdirSync } from 'node:fs';
import { setTargets } from './coverage.ts';
import { follow, makeOrganisation, makeSources, plantChanges } from './make.ts';
import { makePast, makePastFigures } from './past.ts';
import { seedThroughApi } from './seed.ts';

const [step] = process.argv.slice(2);
const {
  DATABASE_URL = '',
  IDREL_DEMO_SOURCES_URL = DATABASE_URL,
  IDREL_DEMO_FOLDER = '',
  IDREL_DEMO_SERVER = '',
  IDREL_STANDINS_ADDRESS = '',
  IDREL_DEMO_SCALE = '1',
} = process.env;
const tell = (text: string) => process.stdout.write(`${text}\n`);

if (!DATABASE_URL || !IDREL_DEMO_FOLDER) throw new Error('DATABASE_URL and IDREL_DEMO_FOLDER must be set.');
mkdirSync(IDREL_DEMO_FOLDER, { recursive: true });
if (step === 'make') {
  await makeOrganisation(DATABASE_URL);
  await makeSources({
    serverUrl: IDREL_DEMO_SOURCES_URL,
    folder: IDREL_DEMO_FOLDER,
    today: new Date(),
    scale: Number(IDREL_DEMO_SCALE),
  });
} else if (step === 'seed') {
  const url = new URL(IDREL_DEMO_SOURCES_URL);
  await seedThroughApi({
    address: IDREL_DEMO_SERVER,
    database: { host: url.hostname, port: Number(url.port || 5432) },
    folder: IDREL_DEMO_FOLDER,
    standIns: IDREL_STANDINS_ADDRESS,
    change: () => plantChanges(IDREL_DEMO_SOURCES_URL),
    tell,
  });
  await makePast(DATABASE_URL);
  await setTargets(IDREL_DEMO_SERVER);
  await makePastFigures(DATABASE_URL);
} else if (step === 'follow')
  await follow({
    databaseUrl: DATABASE_URL,
    serverUrl: IDREL_DEMO_SOURCES_URL,
    folder: IDREL_DEMO_FOLDER,
    standIns: IDREL_STANDINS_ADDRESS,
  });
else throw new Error('Say what to do: make, seed or follow.');
