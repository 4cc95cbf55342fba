import { faker } from '@faker-js/faker';
import { DETECTORS, recognise } from '../core/dist/recognition/index.js';

/** Makes 20 columns one after the other and recognises each (`framed`), runs all tests bare over every twentieth value (`bare`), or only makes one (`nothing`). */
const VALUES = 200_000;
const PART = 20;
const MAKERS = [
  (i) => `${i}.${faker.internet.email()}`,
  (i) => `${faker.person.firstName()} ${faker.person.lastName()} ${i % 7 ? '' : i}`,
  () => faker.phone.number({ style: 'international' }),
  (i) => `${i} ${faker.location.street()}`,
  () => faker.finance.creditCardNumber('4###########L'),
  () => faker.finance.iban(),
  (i) => `${faker.lorem.words(9)} ${i} ${i % 9 ? '' : faker.internet.email()}`,
  () => faker.internet.ip(),
  (i) => (i / 7).toFixed(2),
  (i) => `TF-${i}-${faker.string.alphanumeric(6)}`,
  () => faker.string.uuid(),
  (i) => String(10_000_000_000 + i * 7919),
  (i) => `${faker.commerce.product()} ${i}`,
  () => faker.internet.mac(),
  (i) => `https://example.org/${i}`,
  (i) => new Date(1.6e12 + i * 1e6).toISOString(),
  () => faker.string.hexadecimal({ length: 40 }),
  (i) => `AB${String(i).padStart(6, '0')}C`,
  (i) => `${faker.company.name()} ${i}`,
  (i) => `${faker.system.fileName()}${i}`,
];
const setting = { today: new Date(), countries: ['GB', 'NO', 'DE', 'US'] };
const what = process.argv[2];
let ms = 0;
let hits = 0;
faker.seed(5);
for (const [index, make] of MAKERS.entries()) {
  if (what === 'nothing' && index > 0) break;
  const values = Array.from({ length: VALUES }, (_, row) => make(row));
  const column = { name: `c${index}`, type: 'text', values };
  if (what === 'nothing') hits += 1;
  if (what === 'framed') {
    const started = performance.now();
    hits += recognise(column, setting).length;
    ms += performance.now() - started;
  }
  if (what === 'bare') {
    const some = values.filter((_, row) => row % PART === 0);
    const started = performance.now();
    for (const detector of DETECTORS)
      if (detector.types.includes('text')) for (const value of some) if (detector.test(value, setting)) hits += 1;
    ms += (performance.now() - started) * PART;
  }
}
if (hits === 0) throw new Error('nothing was recognised');
process.stdout.write(JSON.stringify({ ms, mb: Math.round(process.resourceUsage().maxRSS / 1024) }));
