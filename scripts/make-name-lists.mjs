/**
 * Makes core/src/recognition/data/personNames.json and personNamesWorld.json: given and family names of all locales, those that write Latin letters and the others,
 * from the lists of @faker-js/faker (MIT).
 * Run by hand when the list should change; the result is kept in the repository so that nothing else depends on the generator.
 */
import { writeFileSync } from 'node:fs';
import { allLocales } from '@faker-js/faker';

const LOCALES = Object.keys(allLocales);
const fold = (text) =>
  text
    .normalize('NFD')
    .replace(/\p{M}/gu, '')
    .replaceAll('ø', 'o')
    .replaceAll('ł', 'l')
    .replaceAll('æ', 'ae')
    .replaceAll('ß', 'ss')
    .toLowerCase();
const strings = (value) =>
  (Array.isArray(value) ? value : Object.values(value ?? {}).flat()).filter((entry) => typeof entry === 'string');

function collect(field) {
  const names = new Set();
  for (const locale of LOCALES) {
    for (const name of strings(allLocales[locale]?.person?.[field])) {
      for (const part of fold(name)
        .replace(/[øł]/g, '')
        .split(/[^\p{L}']+/u))
        if (part.length > 2 && /^[a-z']+$/.test(part)) names.add(part);
    }
  }
  return [...names].sort().join(' ');
}

const lists = { given: collect('first_name'), family: collect('last_name') };
writeFileSync(
  new URL('../core/src/recognition/data/personNames.json', import.meta.url),
  `${JSON.stringify(lists, null, 1)}\n`,
);

/** Common names that those lists do not have, by hand. */
const ADDED = {
  first_name:
    'Γιώργος Γιάννης Κώστας Δημήτρης Νίκος Παναγιώτης Βασίλης Χρήστος Θανάσης Μαρία Ελένη Αικατερίνη Βασιλική Σοφία Αγγελική Γεωργία Δήμητρα Κωνσταντίνα Ιωάννα Κατερίνα Ειρήνη Αθανάσιος Ιωάννης Γεώργιος Νικόλαος Δημήτριος Κωνσταντίνος Μιχάλης Σπύρος Στέλιος Ανδρέας Πέτρος Αντώνης Χριστίνα Παρασκευή Ευαγγελία ' +
    'Александр Сергей Дмитрий Андрей Алексей Максим Евгений Иван Михаил Артём Владимир Николай Олег Павел Роман Юрий Игорь Виктор Елена Ольга Наталья Анна Татьяна Ирина Екатерина Светлана Мария Юлия Марина Людмила Анастасия Ксения Дарья Полина ' +
    'Олександр Сергій Володимир Андрій Микола Іван Михайло Василь Юрій Олена Оксана Наталія Тетяна Ірина Людмила Галина Марія Юлія Світлана Надія ' +
    'Георги Иван Димитър Николай Петър Христо Стефан Йордан Васил Тодор Мария Иванка Елена Йорданка Пенка Виолета Десислава Гергана Красимира ' +
    'محمد أحمد علي حسن حسين إبراهيم يوسف عمر عبدالله خالد سعيد محمود مصطفى عبدالرحمن فاطمة عائشة مريم زينب خديجة سارة نور ليلى هدى أمينة سلمى ' +
    'رضا مهدی حسن امیر سعید محسن مجید علیرضا حمید مریم زهرا فاطمه نرگس الهام سمیه لیلا ' +
    'דוד משה יוסף יעקב אברהם דניאל יצחק שמואל מיכאל יונתן איתי עומר שרה רחל לאה מרים אסתר חנה תמר נועה מאיה יעל רבקה ' +
    'राम राहुल अमित राज संजय विजय अनिल सुनील राजेश सुरेश रमेश मनोज अजय प्रिया नेहा पूजा सीता गीता सुनीता अनीता रेखा कविता दीपिका ' +
    'রহিম করিম হাসান হোসেন আলী ফাতেমা আয়েশা নাসরিন সুমন রিয়া ' +
    '민준 서준 도윤 예준 시우 하준 지호 주원 지훈 준우 민수 영수 영호 성민 현우 서연 서윤 지우 서현 민서 하은 지민 수빈 지영 은지 미경 영희 순자 ' +
    '翔 蓮 大翔 悠真 湊 健太 大輔 拓也 直樹 太郎 一郎 次郎 誠 浩 明 陽菜 結衣 葵 美咲 さくら 愛 花子 恵子 洋子 由美 真由美 ' +
    '伟 芳 娜 秀英 敏 静 丽 强 磊 军 洋 勇 艳 杰 娟 涛 明 超 秀兰 霞 平 刚 桂英 浩然 子涵 欣怡 梓涵 志明 淑芬 美玲 家豪 俊傑 雅婷 怡君',
  last_name:
    'Παπαδόπουλος Παπαδοπούλου Παπαγεωργίου Παπαδάκης Ιωάννου Γεωργίου Δημητρίου Νικολάου Οικονόμου Βασιλείου Κωνσταντίνου Αντωνίου ' +
    'Иванов Иванова Смирнов Смирнова Кузнецов Кузнецова Попов Попова Васильев Петров Петрова Соколов Михайлов Новиков Фёдоров Морозов Волков Алексеев Лебедев Семёнов Егоров Павлов Козлов Степанов Николаев Орлов Андреев Макаров Никитин Захаров ' +
    'Мельник Шевченко Бондаренко Коваленко Бойко Ткаченко Кравченко Ковальчук Коваль Олійник Шевчук Поліщук Іванова Димитров Георгиев Николов Стоянов ' +
    'الحسن العلي المصري السيد حداد خوري منصور صالح عباس رضایی محمدی حسینی احمدی کریمی موسوی کهن כהן לוי מזרחי פרץ ביטון אברהם פרידמן שפירא אזולאי ' +
    'शर्मा वर्मा सिंह कुमार गुप्ता पटेल यादव मिश्रा जोशी रेड्डी নাগ দাস রহমান ইসলাম খান হোসেন ' +
    '김 이 박 최 정 강 조 윤 장 임 한 오 서 신 권 황 안 송 류 전 홍 고 문 양 손 배 백 허 유 남 심 노 하 곽 성 차 주 우 구 ' +
    '佐藤 鈴木 高橋 田中 伊藤 渡辺 山本 中村 小林 加藤 吉田 山田 佐々木 山口 松本 井上 木村 林 斎藤 清水 山崎 森 池田 橋本 阿部 石川 ' +
    '王 李 张 張 刘 劉 陈 陳 杨 楊 赵 趙 黄 黃 周 吴 吳 徐 孙 孫 胡 朱 高 林 何 郭 马 馬 罗 羅 梁 宋 郑 鄭 谢 謝 韩 唐 冯 于 董 萧 程 曹 袁 邓 许 傅 沈 曾 彭 吕 苏 卢 蒋 蔡 贾 丁 魏 薛 叶 阎 余 潘 杜 戴 夏 钟 汪 田 任 姜 范 方 石 姚 谭 廖 邹 熊 金 陆 郝 孔 白 崔 康 毛 邱 秦 江 史 顾 侯 邵 孟 龙 万 段 雷 钱 汤 尹 黎 易 常 武 乔 贺 赖 龚 文',
};

/** Names in other letters, folded as the detectors fold values. */
function collectOthers(field) {
  const names = new Set();
  for (const locale of LOCALES)
    for (const name of [...strings(allLocales[locale]?.person?.[field]), ...ADDED[field].split(' ')])
      for (const part of fold(name)
        .replace(/\u200c/g, '')
        .split(/[^\p{L}'’]+/u))
        if (part !== '' && !/[a-z]/.test(part) && /\p{L}/u.test(part)) names.add(part);
  return [...names].sort().join(' ');
}
const others = { given: collectOthers('first_name'), family: collectOthers('last_name') };
writeFileSync(
  new URL('../core/src/recognition/data/personNamesWorld.json', import.meta.url),
  `${JSON.stringify(others, null, 1)}\n`,
);
