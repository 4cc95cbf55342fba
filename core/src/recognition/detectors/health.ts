import type { Detector } from '../types.ts';

/** Ten digits, the last of which is a check digit modulo 11 (NHS Data Dictionary, “NHS number”). */
export function isNhsNumber(value: string): boolean {
  const digits = value.replace(/[\s-]/g, '');
  if (!/^\d{10}$/.test(digits) || /^(\d)\1+$/.test(digits)) return false;
  const sum = [...digits.slice(0, 9)].reduce((total, digit, index) => total + Number(digit) * (10 - index), 0);
  return (11 - (sum % 11)) % 11 === Number(digits[9]);
}

export const nhsNumber: Detector = {
  id: 'health.nhs',
  version: '1',
  classKey: 'health-id',
  country: 'GB',
  strength: 0.85,
  checkDigits: true,
  types: ['text', 'integer'],
  minShare: 0.7,
  minShareNamed: 0.35,
  namesFor: ['nhs', 'nhs number', 'nhs no', 'patient', 'patient id', 'patient number', 'chi'],
  namesAgainst: ['phone', 'order', 'invoice', 'barcode', 'ticket', 'ref', 'isbn'],
  test: isNhsNumber,
  accepts: ['943 476 5919', '4010232137'],
  rejects: ['943 476 5918', '94347'],
};

/** A letter and nine digits; the last is a check digit modulo 10 over the letter's place and digits weighted 1 and 2 (§ 290 SGB V). */
export function isGermanHealthId(value: string): boolean {
  if (!/^[A-Z]\d{9}$/.test(value)) return false;
  const letter = String(value.charCodeAt(0) - 64).padStart(2, '0');
  const sum = [...`${letter}${value.slice(1, 9)}`].reduce((total, digit, index) => {
    const product = Number(digit) * (index % 2 === 0 ? 1 : 2);
    return total + (product > 9 ? product - 9 : product);
  }, 0);
  return sum % 10 === Number(value[9]);
}

export const germanHealthId: Detector = {
  id: 'health.kvnr',
  version: '1',
  classKey: 'health-id',
  country: 'DE',
  strength: 0.94,
  checkDigits: true,
  types: ['text'],
  minShare: 0.6,
  minShareNamed: 0.3,
  namesFor: ['kvnr', 'krankenversichertennummer', 'versichertennummer', 'versicherten', 'patient'],
  namesAgainst: [],
  test: isGermanHealthId,
  accepts: ['A123456780', 'T555558879'],
  rejects: ['A123456781', '1234567890', 'A1234'],
};

const DIAGNOSIS_NAMES = [
  'icd',
  'icd10',
  'icd 10',
  'diagnosis',
  'diagnosis code',
  'dx',
  'diagnose',
  'diagnosekode',
  'diagnostic',
  'diagnostico',
  'condition',
  'finding code',
];
const NO_DIAGNOSIS_NAMES = [
  'seat',
  'room',
  'berth',
  'cabin',
  'gate',
  'zone',
  'shelf',
  'bin',
  'deck',
  'grade',
  'product',
  'sku',
  'postcode',
  'zip',
  'status',
  'error',
  'code type',
];

/** A letter, two digits, and up to four more after a point: chapter, category, subcategory (WHO, ICD-10). */
export const diagnosis: Detector = {
  id: 'health.icd10',
  version: '1',
  classKey: 'diagnosis',
  strength: 0.72,
  types: ['text'],
  minShare: 0.75,
  minShareNamed: 0.5,
  namesFor: DIAGNOSIS_NAMES,
  namesAgainst: NO_DIAGNOSIS_NAMES,
  test: (value) => /^[A-Z]\d[0-9AB]\.[0-9A-Z]{1,4}$/.test(value),
  accepts: ['J45.909', 'E11.9', 'S72.001A'],
  rejects: ['u07.1', 'J45.', '45.9', 'ABC'],
};

/** Without the point, or without a subcategory, a letter with digits is anything: the column's name must say what it is. */
export const diagnosisPlain: Detector = {
  ...diagnosis,
  id: 'health.icd10-plain',
  strength: 0.5,
  needsName: true,
  test: (value) => /^[A-Z]\d[0-9AB][0-9A-Z]{0,4}$/.test(value),
  accepts: ['E119', 'S72001A', 'J45'],
  rejects: ['E11.9', '45', 'ABC'],
};

/** Anatomical, therapeutic, chemical: letter, two digits, two letters, two digits (WHO, ATC). */
export const medicine: Detector = {
  id: 'health.atc',
  version: '1',
  classKey: 'medicine',
  strength: 0.9,
  types: ['text'],
  minShare: 0.8,
  minShareNamed: 0.5,
  namesFor: ['atc', 'atc code', 'drug', 'drug code', 'medication', 'medicine', 'prescription', 'substance'],
  namesAgainst: ['plate', 'registration', 'postcode', 'ref', 'booking', 'sku'],
  test: (value) => /^[ABCDGHJLMNPRSV](0[1-9]|1\d|20)[A-X][A-X](0[1-9]|[1-9]\d)$/.test(value),
  accepts: ['N02BE01', 'A10BA02', 'C09AA05'],
  rejects: ['X02BE01', 'N02BE', 'N0BE01'],
};

export const bloodGroup: Detector = {
  id: 'health.blood',
  version: '1',
  classKey: 'blood-group',
  strength: 0.8,
  types: ['text'],
  minShare: 0.75,
  minShareNamed: 0.5,
  fewValues: 5,
  namesFor: [
    'blood',
    'blood group',
    'blood type',
    'blutgruppe',
    'blodtype',
    'blodgrupp',
    'grupo sanguineo',
    'groupe sanguin',
    'gruppo sanguigno',
    'rh',
    'bloedgroep',
    'veriryhma',
  ],
  namesAgainst: ['grade', 'rating', 'mark', 'score', 'class'],
  // A plain letter is anything: at least the rhesus factor stands beside it.
  test: (value) => /^(A|B|AB|0|O)\s?(Rh)?(D)?\s?(\+|-|−|pos\.?|neg\.?|positive|negative)$/i.test(value),
  accepts: ['A+', 'AB-', '0 Rh neg', 'O positive'],
  rejects: ['C+', 'A', 'AA+', '+'],
};

const HEALTH_WORDS =
  /\b(diagnos\w*|asthma\w*|diabet\w*|epilep\w*|allerg\w*|hypertens\w*|depress\w+|cancer|carcinoma|tumou?r|pregnan\w*|hiv|hepatitis|seizure\w*|insulin|chemotherap\w*|surgery|fracture\w*|migraine\w*|medication|medicat\w*|prescri\w+|symptom\w*|therap\w+|unfit for duty|sick leave|krankheit\w*|diagnose\w*|sykdom\w*|sykemeld\w*|maladie\w*|grossesse|enfermedad\w*|embaraz\w*|malattia\w*|gravidanza|sairaus\w*|choroba\w*)\b/iu;

/** A statement to a database, or the beginning of a program. */
const STATEMENT =
  /^\s*(select|insert\s+into|update|delete\s+from|create|alter|drop|grant|with\s+\w+\s+as|merge|call|begin|declare|def|function|class|import|public|#!)\b[\s\S]*[(=;,*]/i;
/** The name of an institution, or a heading: nearly every word of some length has a capital. */
function isTitle(value: string): boolean {
  const long = value.match(/\p{L}{4,}/gu) ?? [];
  return (
    value.length < 120 &&
    !/[.;:]\s/.test(value) &&
    long.length >= 2 &&
    long.filter((word) => /^\p{Lu}/u.test(word)).length >= long.length * 0.8
  );
}

/** Running text about somebody's health: several words, one of which names a condition or a treatment. */
export const healthText: Detector = {
  id: 'health.text',
  version: '2',
  classKey: 'health-text',
  strength: 0.88,
  types: ['text'],
  minShare: 0.08,
  minShareNamed: 0.02,
  namesFor: [
    'medical',
    'health',
    'diagnosis',
    'condition',
    'symptom',
    'symptoms',
    'allergy',
    'allergies',
    'treatment',
    'medication',
    'anamnesis',
    'helse',
    'gesundheit',
    'sante',
    'salud',
    'salute',
  ],
  namesAgainst: ['title', 'product'],
  test: (value) =>
    value.length >= 12 &&
    value.includes(' ') &&
    HEALTH_WORDS.test(value) &&
    (value.match(/\p{L}{2,}/gu)?.length ?? 0) >= 3 &&
    !STATEMENT.test(value) &&
    !isTitle(value),
  accepts: ['Type 2 diabetes, takes insulin twice a day', 'Reported migraine and asked for sick leave'],
  rejects: [
    'National Institute for Cancer Research',
    'select diagnosis from visit where allergy = 1',
    'The ferry left at half past six',
    'asthma',
    'Fit',
  ],
};
