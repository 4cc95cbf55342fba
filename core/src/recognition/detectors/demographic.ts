import { fold } from '../../text/index.ts';
import type { Detector } from '../types.ts';

const words = (text: string) => new Set(text.split(/\s*,\s*/).map((word) => fold(word.trim())));

const GENDERS = words(
  'male, female, man, woman, men, women, boy, girl, non-binary, nonbinary, non binary, diverse, transgender, intersex, männlich, weiblich, divers, mann, frau, mand, kvinde, kvinne, kvinna, homme, femme, masculin, féminin, hombre, mujer, masculino, femenino, feminino, varón, maschio, femmina, uomo, donna, man, vrouw, mannelijk, vrouwelijk, mies, nainen, mężczyzna, kobieta, homem, mulher, herre, dame, karl, kona, muž, žena, ženský, mužský, férfi, nő, erkek, kadın, bărbat, femeie, feminin, мужской, женский, мужчина, женщина, чоловіча, жіноча, чоловік, жінка, мъж, жена, άνδρας, γυναίκα, άρρεν, θήλυ, ذكر, أنثى, مرد, زن, זכר, נקבה, 男, 女, 男性, 女性, 남, 여, 남성, 여성, 남자, 여자, ชาย, หญิง, पुरुष, महिला, nam, nữ, laki-laki, perempuan, pria, wanita',
);
const GENDER_LETTERS = words(
  'm, f, w, d, x, м, ж, ч, α, θ, ذ, א, ז, נ, k, v, h, u, n, o, mr, mrs, ms, miss, herr, frau, 1, 2, 0, 9, unknown, other, prefer not to say, unspecified, not specified, not stated',
);
// Without its marks the Hungarian word for a woman is everybody's no.
const isGender = (value: string) => (fold(value) === 'no' ? value.toLowerCase() === 'nő' : GENDERS.has(fold(value)));
const YES_OR_NO = /^(y|yes|yeah|true|false|t|no|ja|nein|nei|nej|oui|non|si|sí|sim|não|tak|nie|да|нет|on|off)$/i;
const asAnswers = { reason: 'are answers, yes or no', test: (value: string) => YES_OR_NO.test(value) };

export const gender: Detector = {
  id: 'person.gender',
  version: '3',
  contrary: asAnswers,
  classKey: 'gender',
  strength: 0.88,
  types: ['text'],
  minShare: 0.7,
  minShareNamed: 0.4,
  fewValues: 2,
  namesFor: [
    'gender',
    'sex',
    'geschlecht',
    'kjonn',
    'kon',
    'sexe',
    'sexo',
    'sesso',
    'geslacht',
    'sukupuoli',
    'plec',
    'genero',
    'genere',
    'pohlavi',
    'nem',
    'cinsiyet',
    'пол',
    'стать',
    'φυλο',
    '性别',
    '性別',
    '성별',
    'מין',
    'الجنس',
    'جنسیت',
  ],
  namesAgainst: ['product', 'category', 'size', 'department'],
  test: isGender,
  accepts: ['female', 'Male', 'weiblich', 'kvinne', 'non-binary'],
  rejects: ['M', 'adult', 'blue'],
};

/** Single letters and codes (ISO/IEC 5218 among them): the column's name must say what they mean. */
export const genderCode: Detector = {
  id: 'person.gender-code',
  version: '3',
  contrary: asAnswers,
  classKey: 'gender',
  strength: 0.6,
  needsName: true,
  types: ['text', 'integer'],
  minShare: 0.95,
  minShareNamed: 0.9,
  fewValues: 2,
  namesFor: [
    'gender',
    'sex',
    'geschlecht',
    'kjonn',
    'kon',
    'sexe',
    'sexo',
    'sesso',
    'geslacht',
    'sukupuoli',
    'plec',
    'genero',
    'genere',
    'pohlavi',
    'nem',
    'cinsiyet',
    'пол',
    'стать',
    'φυλο',
    '性别',
    '性別',
    '성별',
    'מין',
    'الجنس',
    'جنسیت',
    'salutation',
    'anrede',
  ],
  namesAgainst: ['product', 'category'],
  test: (value) => GENDER_LETTERS.has(fold(value)) || isGender(value),
  accepts: ['M', 'f', '1', 'Prefer not to say'],
  rejects: ['7', 'adult', 'XL'],
};

const MARITAL = words(
  'single, married, divorced, widowed, separated, widow, widower, unmarried, never married, civil partnership, domestic partnership, registered partnership, cohabiting, engaged, ledig, verheiratet, geschieden, verwitwet, getrennt, eingetragene partnerschaft, gift, ugift, skilt, enke, enkemann, separert, samboer, gift/registrert partner, skild, änka, änkling, sambo, célibataire, marié, mariée, marié(e), divorcé, divorcée, divorcé(e), veuf, veuve, pacsé, pacsée, séparé, séparée, soltero, soltera, casado, casada, divorciado, divorciada, viudo, viuda, separado, separada, celibe, nubile, coniugato, coniugata, divorziato, divorziata, vedovo, vedova, solteiro, solteira, viúvo, viúva, ongehuwd, gehuwd, gescheiden, weduwe, weduwnaar, naimaton, naimisissa, eronnut, leski, kawaler, panna, żonaty, zamężna, rozwiedziony, rozwiedziona, wdowiec, wdowa',
);
export const maritalStatus: Detector = {
  id: 'person.marital',
  version: '1',
  classKey: 'marital-status',
  strength: 0.9,
  types: ['text'],
  minShare: 0.75,
  minShareNamed: 0.5,
  fewValues: 3,
  namesFor: [
    'marital',
    'marital status',
    'civil status',
    'familienstand',
    'sivilstand',
    'sivilstatus',
    'civilstand',
    'estado civil',
    'etat civil',
    'stato civile',
    'burgerlijke staat',
    'siviilisaaty',
    'stan cywilny',
  ],
  namesAgainst: ['ticket', 'cabin', 'room', 'bed', 'fare', 'journey'],
  test: (value) => MARITAL.has(fold(value)),
  accepts: ['married', 'Widowed', 'verheiratet', 'soltera'],
  rejects: ['return', 'M', 'twin'],
};

const RELIGIONS = words(
  "christian, christianity, catholic, roman catholic, protestant, lutheran, anglican, orthodox, eastern orthodox, methodist, baptist, presbyterian, pentecostal, evangelical, mormon, muslim, islam, islamic, sunni, shia, shiite, jewish, judaism, jew, hindu, hinduism, buddhist, buddhism, sikh, sikhism, jain, jainism, bahai, bahá'í, taoist, shinto, pagan, atheist, atheism, agnostic, no religion, none/atheist, humanist, evangelisch, katholisch, römisch-katholisch, muslimisch, jüdisch, konfessionslos, kristen, katolsk, jødisk, hinduistisk, katolik, católico, católica, musulmán, musulmana, judío, ateo, atea, catholique, protestant(e), musulman, juif, cattolico, cattolica, musulmano, ebreo",
);
export const religion: Detector = {
  id: 'person.religion',
  version: '1',
  classKey: 'religion',
  strength: 0.92,
  types: ['text'],
  minShare: 0.7,
  minShareNamed: 0.5,
  fewValues: 4,
  namesFor: [
    'religion',
    'faith',
    'belief',
    'denomination',
    'confession',
    'konfession',
    'religionszugehoerigkeit',
    'religione',
    'kirchensteuer',
    'trossamfunn',
    'religious affiliation',
  ],
  namesAgainst: ['holiday', 'calendar'],
  test: (value) => RELIGIONS.has(fold(value)),
  accepts: ['Catholic', 'muslim', 'Evangelisch', 'Hindu'],
  rejects: ['Tuesday', 'none', 'red'],
};

export const NATIONALITIES = words(
  'angolese, antiguan, barbudan, basotho, batswana, beninese, beninois, bermudian, bhutanese, bissau-guinean, bruneian, burkinabe, burundian, cabo verdean, cape verdean, caymanian, central african, comorian, congolese (kinshasa), cook islander, curacaoan, djiboutian, djibouti, east timorese, timorese, equatorial guinean, equatoguinean, emirian, gabonese, gibraltarian, grenadian, guamanian, guyanese, hong konger, i-kiribati, kirghiz, kirgizstani, kittitian, kittian and nevisian, laotian, lesotho, liechtensteiner, macanese, mahoran, marshallese, martinican, martiniquais, mauritanian, micronesian, monegasque, montserratian, mosotho, motswana, nauruan, netherlander, nevisian, new caledonian, ni-vanuatu, nigerien, niuean, palauan, papua new guinean, papuan, puerto rican, reunionese, saint lucian, saint vincentian, saint helenian, salvadorean, sammarinese, samoan, san marinese, sao tomean, saudi arabian, seychellois, sierra leone, solomon islander, south sudanese, surinamer, surinamese, swazi, tajikistani, tadzhik, tahitian, tokelauan, tongan, tunisian, turkmenistani, tuvaluan, uzbekistani, vanuatuan, venetian, virgin islander, western saharan, zimbabwian, kazakhstani, kosovar, argentinean, american samoan, anguillan, aruban, bahamian, belizean, bosnian herzegovinian, herzegovinian, falkland islander, french polynesian, greenlander, guadeloupean, channel islander, manx, dutchman, briton, dane, finn, swede, norweger, pole, spaniard, turk, scot, frenchman, englishman, irishman, welshman, icelander, filipina, thailander, lesothan, ugandian, trinbagonian, tobagonian, citizen of the dominican republic, citizen of vanuatu, cymraes, cymro, prydeinig, stateless, afghan, albanian, algerian, american, andorran, angolan, argentine, argentinian, armenian, australian, austrian, azerbaijani, bahraini, bangladeshi, barbadian, belarusian, belgian, bolivian, bosnian, botswanan, brazilian, british, bulgarian, burmese, cambodian, cameroonian, canadian, chadian, chilean, chinese, colombian, congolese, costa rican, croatian, cuban, cypriot, czech, danish, dominican, dutch, ecuadorian, egyptian, emirati, english, eritrean, estonian, ethiopian, faroese, fijian, filipino, finnish, french, gambian, georgian, german, ghanaian, greek, greenlandic, guatemalan, guinean, haitian, honduran, hungarian, icelandic, indian, indonesian, iranian, iraqi, irish, israeli, italian, ivorian, jamaican, japanese, jordanian, kazakh, kenyan, korean, south korean, north korean, kosovan, kuwaiti, kyrgyz, lao, latvian, lebanese, liberian, libyan, lithuanian, luxembourger, luxembourgish, macedonian, malagasy, malawian, malaysian, maldivian, malian, maltese, mauritian, mexican, moldovan, mongolian, montenegrin, moroccan, mozambican, namibian, nepalese, nepali, new zealander, nicaraguan, nigerian, northern irish, norwegian, omani, pakistani, palestinian, panamanian, paraguayan, peruvian, polish, portuguese, qatari, romanian, russian, rwandan, salvadoran, saudi, scottish, senegalese, serbian, sierra leonean, singaporean, slovak, slovakian, slovenian, somali, south african, spanish, sri lankan, sudanese, swedish, swiss, syrian, taiwanese, tajik, tanzanian, thai, togolese, trinidadian, tunisian, turkish, turkmen, ugandan, ukrainian, uruguayan, uzbek, venezuelan, vietnamese, welsh, yemeni, zambian, zimbabwean, deutsch, österreichisch, schweizerisch, französisch, italienisch, spanisch, polnisch, türkisch, griechisch, niederländisch, norsk, svensk, dansk, finsk, tysk, britisk, polsk, française, française, français, allemande, allemand, espagnole, espagnol, italienne, italien, española, español, francesa, francés, alemana, alemán, italiana, italiano',
);
export const nationality: Detector = {
  id: 'person.nationality',
  version: '2',
  classKey: 'nationality',
  strength: 0.9,
  types: ['text'],
  minShare: 0.75,
  minShareNamed: 0.5,
  fewValues: 4,
  namesFor: [
    'nationality',
    'nationalities',
    'demonym',
    'citizen',
    'citizenship',
    'nationalitat',
    'staatsangehorigkeit',
    'staatsburgerschaft',
    'nasjonalitet',
    'statsborgerskap',
    'nationalitet',
    'medborgarskap',
    'nationalite',
    'nacionalidad',
    'nazionalita',
    'cittadinanza',
    'nationaliteit',
    'kansalaisuus',
    'obywatelstwo',
    'nacionalidade',
  ],
  namesAgainst: ['language', 'cuisine', 'lang', 'idioma', 'sprache', 'menu', 'dish', 'kitchen'],
  test: (value) => NATIONALITIES.has(fold(value)),
  accepts: ['Norwegian', 'british', 'Sri Lankan'],
  rejects: ['Norway', 'NO', 'blue'],
};

const ETHNICITIES = words(
  'white, black, asian, hispanic, latino, latina, latinx, caucasian, african american, african-american, black or african american, american indian or alaska native, native american, native hawaiian or other pacific islander, pacific islander, hispanic or latino, not hispanic or latino, middle eastern, arab, mixed, two or more races, white british, white irish, white other, any other white background, black caribbean, black african, black british, asian british, south asian, east asian, indian, pakistani, bangladeshi, chinese, sámi, sami, roma, gypsy or irish traveller, multiracial, biracial, aboriginal, torres strait islander, māori, maori, inuit, first nations, other, not stated, prefer not to say',
);
export const ethnicity: Detector = {
  id: 'person.ethnicity',
  version: '1',
  classKey: 'ethnicity',
  strength: 0.6,
  types: ['text'],
  minShare: 0.9,
  minShareNamed: 0.6,
  needsName: true,
  fewValues: 3,
  namesFor: [
    'ethnicity',
    'ethnic',
    'ethnic group',
    'ethnic origin',
    'race',
    'ethnie',
    'etnia',
    'ethnische zugehorigkeit',
    'etnisitet',
  ],
  namesAgainst: ['result', 'number', 'no', 'time', 'track'],
  test: (value) => ETHNICITIES.has(fold(value)),
  accepts: ['White British', 'Asian', 'hispanic or latino'],
  rejects: ['Green', 'Marathon'],
};

const LANGUAGE_WORDS =
  'english, german, french, spanish, italian, portuguese, dutch, norwegian, bokmål, nynorsk, swedish, danish, finnish, icelandic, polish, czech, slovak, hungarian, romanian, bulgarian, greek, turkish, russian, ukrainian, arabic, hebrew, hindi, urdu, bengali, punjabi, tamil, chinese, mandarin, cantonese, japanese, korean, vietnamese, thai, indonesian, malay, swahili, welsh, irish, basque, catalan, estonian, latvian, lithuanian, croatian, serbian, slovenian, albanian, persian, farsi, deutsch, englisch, französisch, spanisch, norsk, engelsk, tysk, fransk, svensk, dansk, français, anglais, allemand, espagnol, español, inglés, francés, alemán, italiano, inglese, francese, tedesco, spagnolo';
const LANGUAGE = words(LANGUAGE_WORDS);
/** Names of the languages that have two letters (ISO 639-1) and of some more, as the Unicode CLDR has them in a few languages and in themselves. */
const TAGS =
  'aa ab af ak am an ar as av ay az ba be bg bh bi bm bn bo br bs ca ce ch co cr cs cu cv cy da de dv dz ee el en eo es et eu fa ff fi fj fo fr fy ga gd gl gn gu gv ha he hi ho hr ht hu hy hz ia id ie ig ii ik io is it iu ja jv ka kg ki kj kk kl km kn ko kr ks ku kv kw ky la lb lg li ln lo lt lu lv mg mh mi mk ml mn mr ms mt my na nb nd ne ng nl nn no nr nv ny oc oj om or os pa pi pl ps pt qu rm rn ro ru rw sa sc sd se sg si sk sl sm sn so sq sr ss st su sv sw ta te tg th ti tk tl tn to tr ts tt tw ty ug uk ur uz ve vi vo wa wo xh yi yo za zh zu yue fil haw hmn ceb sco gsw nds ckb'.split(
    ' ',
  );
for (const tag of TAGS)
  for (const language of ['en', 'de', 'fr', 'es', tag]) {
    const name = new Intl.DisplayNames([language, 'en'], { type: 'language' }).of(tag);
    if (name && name !== tag) LANGUAGE.add(fold(name));
  }
const isLanguage = (value: string) =>
  LANGUAGE.has(fold(value.replace(/\s*\(.*\)$/, ''))) ||
  /^[a-z]{2,3}([-_]([A-Z][a-z]{3}|[A-Z]{2}|[0-9]{3}))*$/.test(value);

export const language: Detector = {
  id: 'person.language',
  version: '2',
  classKey: 'language',
  strength: 0.6,
  types: ['text'],
  minShare: 0.9,
  minShareNamed: 0.6,
  needsName: true,
  fewValues: 3,
  namesFor: [
    'language',
    'languages',
    'langs',
    'lang',
    'locales',
    'sprachen',
    'idiomas',
    'langues',
    'sprog',
    'language code',
    'iso 639',
    'iso 639 1',
    'iso 639 2',
    'mother tongue',
    'native language',
    'locale',
    'sprache',
    'sprak',
    'spraak',
    'langue',
    'idioma',
    'lingua',
    'taal',
    'kieli',
    'jezyk',
    'spoken',
  ],
  namesAgainst: ['programming', 'code base'],
  // BCP 47 tags of two or three letters with a region or script, or the name of a language.
  test: (value) => value.length <= 200 && value.split(/\s*[,;|/]\s*|\s+(?:and|und|et|og|och)\s+/).every(isLanguage),
  accepts: ['English, French', 'de;en;nb-NO', 'es-419', 'Kiswahili', 'English', 'nb-NO', 'de', 'français'],
  rejects: ['Norway', 'NO', '12'],
};

/** Passport numbers have no form of their own: letters and digits of six to nine, under a name that says so. */
export const passport: Detector = {
  id: 'document.passport',
  version: '1',
  classKey: 'passport',
  strength: 0.5,
  types: ['text', 'integer'],
  minShare: 0.8,
  minShareNamed: 0.6,
  needsName: true,
  namesFor: [
    'passport',
    'passport number',
    'passport no',
    'pass nr',
    'passnummer',
    'passeport',
    'pasaporte',
    'passaporto',
    'paspoort',
    'paszport',
    'reisepass',
    'travel document',
    'document number',
    'document no',
  ],
  namesAgainst: ['expiry', 'expires', 'country', 'type', 'issued', 'valid', 'date', 'scan', 'checked'],
  test: (value) =>
    /^(?=.*\d.*\d.*\d.*\d)[A-Z]{0,3}\d{5,9}[A-Z]?\d{0,2}$|^[CFGHJKLMNPRTVWXYZ0-9]{9,10}$|^\d{2}[A-Z]{2}\d{5}$/i.test(
      value,
    ),
  accepts: ['C01X00T47', 'AB1234567', '533380006', '12AB34567'],
  rejects: ['Norway', '12', '2031-04-30'],
};

/** The machine-readable zone of a travel document with its check digits (ICAO Doc 9303, part 3, 4.9). */
const WEIGHTS = [7, 3, 1];
const worthOf = (character: string) => (character === '<' ? 0 : Number.parseInt(character, 36));
const checks = (field: string, digit: string | undefined) =>
  [...field].reduce((sum, character, index) => sum + worthOf(character) * (WEIGHTS[index % 3] ?? 0), 0) % 10 ===
  Number(digit === '<' ? 0 : digit);
export function isMachineReadable(value: string): boolean {
  const lines = value.split(/\s+/).filter(Boolean);
  const second = lines.at(-1) ?? '';
  if (lines.length > 3 || !/^[A-Z0-9<]{36}$|^[A-Z0-9<]{44}$/.test(second) || !second.includes('<')) return false;
  return (
    checks(second.slice(0, 9), second[9]) &&
    checks(second.slice(13, 19), second[19]) &&
    checks(second.slice(21, 27), second[27])
  );
}
export const machineReadable: Detector = {
  id: 'document.mrz',
  version: '1',
  classKey: 'passport',
  strength: 0.99,
  checkDigits: true,
  types: ['text'],
  minShare: 0.5,
  minShareNamed: 0.3,
  namesFor: ['mrz', 'machine readable', 'passport', 'travel document'],
  namesAgainst: [],
  test: isMachineReadable,
  accepts: [
    'P<UTOERIKSSON<<ANNA<MARIA<<<<<<<<<<<<<<<<<<<\nL898902C36UTO7408122F1204159ZE184226B<<<<<10',
    'L898902C36UTO7408122F1204159ZE184226B<<<<<10',
  ],
  rejects: ['L898902C36UTO7408123F1204159ZE184226B<<<<<10', 'P<UTO'],
};

export const drivingLicence: Detector = {
  id: 'document.driving',
  version: '1',
  classKey: 'driving-licence',
  strength: 0.5,
  types: ['text', 'integer'],
  minShare: 0.8,
  minShareNamed: 0.6,
  needsName: true,
  namesFor: [
    'driving licence',
    'driving license',
    'driver licence',
    'driver license',
    'drivers license',
    'drivers licence',
    'licence no',
    'license no',
    'licence number',
    'license number',
    'fuhrerschein',
    'forerkort',
    'korkort',
    'permis',
    'rijbewijs',
    'patente',
    'carnet de conducir',
    'ajokortti',
    'prawo jazdy',
    'dl number',
    'dl no',
  ],
  namesAgainst: ['expiry', 'expires', 'class', 'category', 'type', 'plate', 'date', 'software', 'url', 'key', 'valid'],
  test: (value) => /^(?=.*\d.*\d.*\d)[A-Z0-9][A-Z0-9 *-]{5,19}$/i.test(value) && !/^\d{4}-\d{2}-\d{2}$/.test(value),
  accepts: ['MORGA657054SM9IJ', 'D1234567', '12 34 567890'],
  rejects: ['B', '2031-04-30', 'none given'],
};
