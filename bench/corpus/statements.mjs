/**
 * Ordinary statements of people who analyse data: what stands in their notebooks and reports, by what it shows off. Over two small tables, so that
 * each gives the same rows with and without the gateway. Written by hand from PostgreSQL's documentation, chapter by chapter.
 */
export const SCHEMA = `
  create schema shop;
  create table shop.port (code text primary key, name text, lat numeric, lon numeric, parent text, opened date);
  insert into shop.port values ('ULV', 'Ulvey', 58.97, 5.73, null, '1990-05-01'), ('KES', 'Kessgar', 59.1, 6.2, 'ULV', '2001-01-15'), ('NBR', 'North Brae', 60.4, 5.3, 'ULV', null), ('LOD', 'Lodden Head', 57.2, 7.1, 'KES', '2015-09-30');
  create table shop.sale (id int primary key, port text, at timestamptz, day date, at_till time, amount numeric(10,2), qty int, tags text[], info jsonb, note text, span tstzrange, days daterange, ip inet, uid uuid, paid boolean, took interval, raw bytea, score double precision);
  insert into shop.sale
    select i, (array['ULV','KES','NBR',null])[1 + i % 4], timestamptz '2026-01-01 08:00Z' + i * interval '7 hours', date '2026-01-01' + i, time '08:00' + i * interval '1 minute', (i * 37 % 1000) / 10.0, i % 7,
      array['t' || i % 3, 'u' || i % 2], jsonb_build_object('k', i % 5, 'who', jsonb_build_object('name', 'P' || i % 9, 'ages', jsonb_build_array(i, i + 1))), 'coffee and cake ' || i,
      tstzrange(timestamptz '2026-01-01Z' + i * interval '1 hour', timestamptz '2026-01-01Z' + (i + 3) * interval '1 hour'), daterange(date '2026-01-01' + i, date '2026-01-05' + i),
      ('10.1.' || i % 3 || '.' || i % 200)::inet, ('00000000-0000-4000-8000-' || lpad(i::text, 12, '0'))::uuid, i % 3 = 0, i * interval '3 minutes', decode(lpad(to_hex(i), 4, '0'), 'hex'), sin(i)
    from generate_series(1, 120) i;`;

const lines = (text) =>
  text
    .split('\n')
    .map((line) => line.trim())
    .filter((line) => line !== '' && !line.startsWith('--'));

/** Expressions over a sale `s`; each is a statement of its own. */
const EXPRESSIONS = lines(String.raw`
  -- mathematics
  abs(-s.qty), sign(s.score), ceil(s.score), ceiling(s.score), floor(s.score), round(s.amount, 1), trunc(s.amount, 1), mod(s.qty, 3), div(s.amount, 3)
  power(s.qty, 2), sqrt(s.qty), cbrt(s.qty), exp(1), ln(2), log(100), log(2, 64), log10(1000), pi(), degrees(1), radians(180), factorial(5)
  sin(1), cos(1), tan(1), asin(0.5), acos(0.5), atan(1), atan2(1, 2), sinh(1), cosh(1), tanh(1), sind(30), cotd(45)
  gcd(12, 18), lcm(4, 6), width_bucket(s.amount, 0, 100, 5), scale(1.500), trim_scale(1.500), min_scale(1.50), greatest(s.qty, 3), least(s.qty, 3, 1)
  s.qty % 3, s.qty ^ 2, |/ 16.0, ||/ 27.0, @ -5, s.qty & 3, s.qty | 8, s.qty # 1, ~ s.qty, s.qty << 2, s.qty >> 1
  s.amount::int, s.amount::numeric(6, 1), s.qty::double precision, cast(s.qty as text), s.qty::bigint, 1e3, .5, 0.1 + 0.2, 7 / 2, 7 / 2.0
  -- texts
  upper(s.note), lower(s.note), initcap(s.note), length(s.note), char_length(s.note), octet_length(s.note), bit_length(s.note), reverse(s.note)
  left(s.note, 6), right(s.note, 3), substr(s.note, 2, 4), substring(s.note, 8), substring(s.note from 8 for 3), substring(s.note from 'c[a-z]+'), substring(s.note similar '%#"cake#"%' escape '#')
  position('cake' in s.note), strpos(s.note, 'cake'), overlay(s.note placing 'tea' from 1 for 6), replace(s.note, 'cake', 'bun'), translate(s.note, 'ac', 'AC')
  trim(s.note), trim(leading 'c' from s.note), trim(both from '  x '), btrim(s.note, 'c1'), ltrim(s.note, 'c'), rtrim(s.note, '0123456789')
  lpad(s.port, 5, '*'), rpad(s.port, 5), repeat(s.port, 2), concat(s.port, '-', s.qty), concat_ws(', ', s.port, s.note), s.port || ':' || s.qty, format('%s has %s and %L, %I', s.port, s.qty, s.note, 'a b')
  split_part(s.note, ' ', 2), string_to_array(s.note, ' '), array_to_string(s.tags, ';', '-'), ascii(s.note), chr(65), to_hex(255), md5(s.note), quote_literal(s.note), quote_ident('a b'), quote_nullable(null)
  regexp_replace(s.note, '[0-9]+', '#', 'g'), regexp_match(s.note, '([a-z]+) and'), regexp_split_to_array(s.note, '\s+'), regexp_count(s.note, 'c'), regexp_like(s.note, '^coffee'), regexp_substr(s.note, '[0-9]+'), regexp_instr(s.note, 'cake')
  s.note like 'coffee%', s.note not like '%tea%', s.note ilike 'COFFEE%', s.note like 'co!_%' escape '!', s.note similar to '(coffee|tea)%', s.note ~ '^c', s.note ~* 'CAKE', s.note !~ 'x', s.note ^@ 'cof', starts_with(s.note, 'cof')
  normalize('a' || chr(776), NFC), 'a' is normalized, unistr('\0041'), parse_ident('"a".b'), s.note collate "C" < 'd', s.note between 'a' and 'd', U&'d\0061t\+000061', E'a\tb', $$dollar$$, $q$it's$q$
  sha224(s.raw), sha256(s.raw), sha384(s.raw), sha512(s.raw), encode(s.raw, 'hex'), decode('00ff', 'hex'), encode(s.raw, 'base64'), get_byte(s.raw, 1), set_byte(s.raw, 0, 7), get_bit(s.raw, 3), bit_count(s.raw), length(s.raw), convert_to(s.note, 'UTF8'), convert_from(convert_to(s.note, 'UTF8'), 'UTF8'), convert(convert_to(s.note, 'UTF8'), 'UTF8', 'LATIN1')
  -- times
  extract(year from s.at), extract(epoch from s.at), extract(dow from s.day), extract(isoyear from s.day), date_part('week', s.day), date_trunc('month', s.at), date_trunc('day', s.at, 'Europe/Oslo'), date_bin('15 minutes', s.at, timestamptz '2026-01-01Z')
  age(s.at, timestamptz '2025-01-01Z'), s.at at time zone 'UTC', timezone('Europe/Oslo', s.at), s.at::date, s.at + interval '1 day', s.at - interval '2 hours', s.day + 7, s.day - date '2026-01-01', s.at - timestamptz '2026-01-01Z', s.took * 2, s.took / 3
  make_date(2026, 2, 3), make_time(8, 15, 23.5), make_timestamp(2026, 2, 3, 8, 0, 0), make_timestamptz(2026, 2, 3, 8, 0, 0, 'UTC'), make_interval(days => 10, hours => 3), justify_days(s.took), justify_hours(s.took), justify_interval(s.took)
  to_char(s.at, 'YYYY-MM-DD HH24:MI'), to_char(s.amount, '999D99'), to_date('03 Feb 2026', 'DD Mon YYYY'), to_timestamp('2026-02-03', 'YYYY-MM-DD'), to_timestamp(1700000000), to_number('12,454.8', '99G999D9'), isfinite(s.at)
  (s.day, s.day + 10) overlaps (date '2026-02-01', date '2026-02-10'), s.at between timestamptz '2026-01-05Z' and timestamptz '2026-01-10Z', s.day is distinct from date '2026-01-03', interval '1 year 2 months', time '08:00' + interval '90 minutes', s.day = any (array[date '2026-01-03'])
  -- lists
  s.tags[1], s.tags[1:2], (array['a', 'b'])[1], (string_to_array(s.note, ' '))[2], array_length(s.tags, 1), cardinality(s.tags), array_position(s.tags, 'u1'), array_positions(s.tags, 't1'), array_append(s.tags, 'z'), array_prepend('z', s.tags), array_cat(s.tags, s.tags), array_remove(s.tags, 'u1'), array_replace(s.tags, 'u1', 'v')
  s.tags || 'x'::text, s.tags @> array['t1'], s.tags <@ array['t1', 'u1'], s.tags && array['u0'], 't1' = any(s.tags), 'x' <> all(s.tags), array_dims(s.tags), array_ndims(s.tags), array_lower(s.tags, 1), array_upper(s.tags, 1), trim_array(s.tags, 1), array_fill(0, array[3]), array[[1, 2], [3, 4]], array(select p.code from shop.port p order by 1)
  -- JSON
  s.info -> 'k', s.info ->> 'k', s.info #> '{who,name}', s.info #>> '{who,ages,0}', s.info['who']['name'], (s.info ->> 'k')::int, s.info ? 'k', s.info ?| array['k', 'x'], s.info ?& array['k'], s.info @> '{"k": 1}', s.info - 'k', s.info #- '{who,name}', s.info || '{"z": 1}'
  jsonb_path_query_first(s.info, '$.who.ages[*] ? (@ > 5)'), jsonb_path_exists(s.info, '$.who.name'), jsonb_path_match(s.info, 'exists($.k)'), jsonb_path_query_array(s.info, '$.who.ages[*]'), s.info @? '$.who', s.info @@ '$.k == 1', jsonb_path_query_first(s.info, '$.k + $d', '{"d": 1}')
  jsonb_set(s.info, '{k}', '9'), jsonb_insert(s.info, '{who,ages,0}', '0'), jsonb_strip_nulls('{"a": null}'), jsonb_pretty(s.info), jsonb_typeof(s.info -> 'who'), jsonb_array_length(s.info #> '{who,ages}'), jsonb_extract_path_text(s.info, 'who', 'name'), jsonb_build_object('a', s.qty), jsonb_build_array(1, 'x', null), to_jsonb(s.tags), row_to_json(row(1, 'x')), json_object('{a,b}', '{1,2}'), json_build_object('a', 1), array_to_json(s.tags), '{"a": 1}'::json ->> 'a'
  -- conditions
  case when s.qty > 3 then 'many' when s.qty = 0 then 'none' else 'few' end, case s.port when 'ULV' then 1 else 2 end, coalesce(s.port, 'none'), nullif(s.qty, 0), s.port is null, s.paid is not true, s.paid is unknown, num_nulls(s.port, s.note), num_nonnulls(s.port), s.qty in (1, 2, 3), s.qty not in (1, 2), (s.qty, s.port) = (1, 'KES'), row(s.qty, 1) < row(2, 0), s.port is not distinct from null, not s.paid, s.paid and s.qty > 2 or s.qty = 1, s.qty <> all (array[1, 2]), exists (select 1 from shop.port p where p.code = s.port), s.qty = some (select 1)
  -- ranges, networks, ids, text search, bits
  lower(s.span), upper(s.span), isempty(s.span), lower_inc(s.days), upper_inf(s.days), s.days @> date '2026-01-10', s.days && daterange('2026-01-01', '2026-02-01'), s.days * daterange('2026-01-03', '2026-02-01'), s.days -|- daterange('2026-01-01', '2026-01-02'), range_merge(s.days, daterange('2026-03-01', '2026-03-02')), int4range(1, 10), numrange(1.5, 2.5, '[]'), '[2026-01-01,2026-02-01)'::daterange, datemultirange(s.days), '{[1,3), [5,9)}'::int4multirange @> 2, multirange(int4range(1, 2)), tstzrange(s.at, s.at + s.took)
  host(s.ip), family(s.ip), masklen(s.ip), network(s.ip), netmask(s.ip), broadcast(s.ip), set_masklen(s.ip, 16), abbrev(s.ip), s.ip << inet '10.1.0.0/16', s.ip <<= inet '10.1.0.0/16', inet_same_family(s.ip, '::1'), inet_merge(s.ip, '10.1.9.9'), text(s.ip), s.ip::text, '10.0.0.0/8'::cidr, macaddr '08:00:2b:01:02:03', s.ip + 1
  s.uid::text, uuid '00000000-0000-4000-8000-000000000001' = s.uid, length(gen_random_uuid()::text), pg_typeof(s.uid)::text, pg_size_pretty(1024::bigint * s.qty), pg_size_bytes('1 kB'), pg_column_size(1), B'101' & B'110', b'1'::bit(3), get_bit(B'101', 1), bit_count(B'1011'), 5::bit(8), point(1, 2) <-> point(4, 6), box(point(0, 0), point(1, 1)) @> point(0.5, 0.5), area(circle '((0,0),2)'), lseg '[(0,0),(1,1)]' ?# lseg '[(0,1),(1,0)]'
  to_tsvector('english', s.note) @@ to_tsquery('english', 'cakes & coffee'), to_tsvector('simple', s.note), plainto_tsquery('english', 'the cakes'), phraseto_tsquery('english', 'coffee and cake'), websearch_to_tsquery('english', '"coffee" -tea'), ts_rank(to_tsvector('english', s.note), to_tsquery('cake')), ts_headline('english', s.note, to_tsquery('cake')), setweight(to_tsvector('english', s.note), 'A'), strip(to_tsvector('english', s.note)), numnode(to_tsquery('a & b')), 'a'::tsvector, to_tsquery('a') && to_tsquery('b'), tsvector_to_array('a b'::tsvector), querytree('a & !b'::tsquery)
`).flatMap((line) => {
  // Commas outside of brackets and quotation marks part the expressions of a line.
  const found = [];
  let [depth, quoted, from] = [0, '', 0];
  for (let at = 0; at < line.length; at += 1) {
    const letter = line[at];
    if (quoted) {
      if (letter === quoted) quoted = '';
    } else if (letter === "'" || letter === '"') quoted = letter;
    else if ('([{'.includes(letter)) depth += 1;
    else if (')]}'.includes(letter)) depth -= 1;
    else if (letter === ',' && depth === 0) {
      found.push(line.slice(from, at).trim());
      from = at + 1;
    }
  }
  return [...found, line.slice(from).trim()];
});

/** Whole statements: what stands around expressions. */
const WHOLE = lines(String.raw`
  select port, count(*), sum(amount), avg(amount), min(day), max(day) from shop.sale group by port order by port
  select port, count(distinct qty), count(*) filter (where paid), array_agg(qty order by id), string_agg(note, ', ' order by id) from shop.sale group by 1 order by 1
  select port, paid, sum(qty) from shop.sale group by rollup (port, paid) order by 1, 2, 3
  select port, paid, grouping(port, paid), sum(qty) from shop.sale group by cube (port, paid) order by 1, 2, 3, 4
  select port, paid, count(*) from shop.sale group by grouping sets ((port), (paid), ()) order by 1, 2, 3
  select port, count(*) from shop.sale group by distinct rollup (port), rollup (port) order by 1, 2
  select port from shop.sale group by port having sum(amount) > 100 order by port
  select percentile_cont(0.5) within group (order by amount), percentile_disc(array[0.25, 0.75]) within group (order by amount), mode() within group (order by qty) from shop.sale
  select rank(3) within group (order by qty), dense_rank(3) within group (order by qty), percent_rank(3) within group (order by qty), cume_dist(3) within group (order by qty) from shop.sale
  select corr(score, qty), covar_pop(score, qty), covar_samp(score, qty), regr_slope(score, qty), regr_intercept(score, qty), regr_r2(score, qty), regr_count(score, qty), regr_avgx(score, qty), regr_sxy(score, qty) from shop.sale
  select stddev(amount), stddev_pop(amount), stddev_samp(amount), variance(amount), var_pop(amount), var_samp(amount), bool_and(paid), bool_or(paid), every(paid) from shop.sale
  select bit_and(qty), bit_or(qty), bit_xor(qty), json_agg(qty order by id), jsonb_agg(qty order by id), jsonb_object_agg(id, qty), range_agg(days), range_intersect_agg(days) from shop.sale where id < 4
  select array_agg(distinct port order by port desc nulls last) from shop.sale
  select id, row_number() over (order by id), rank() over (order by qty), dense_rank() over (order by qty), ntile(4) over (order by id) from shop.sale order by id
  select id, lag(amount) over w, lead(amount, 2, 0) over w, first_value(amount) over w, last_value(amount) over w, nth_value(amount, 2) over w from shop.sale window w as (partition by port order by id) order by id
  select id, sum(amount) over (partition by port order by id rows between 2 preceding and current row), avg(amount) over (order by id rows unbounded preceding exclude current row) from shop.sale order by id
  select id, count(*) over (order by day range between interval '3 days' preceding and interval '1 day' following) from shop.sale order by id
  select id, sum(qty) over (order by qty groups between 1 preceding and 1 following exclude ties) from shop.sale order by id
  select id, percent_rank() over (order by amount), cume_dist() over (order by amount) from shop.sale order by id
  select id, sum(qty) filter (where paid) over (partition by port) from shop.sale order by id
  select * from (select s.*, row_number() over (partition by port order by amount desc, id) as place from shop.sale s) t where place = 1 order by id
  select distinct on (port) port, id, amount from shop.sale order by port, amount desc, id
  select distinct port, paid from shop.sale order by 1, 2
  select s.id, p.name from shop.sale s join shop.port p on p.code = s.port order by s.id
  select s.id, p.name from shop.sale s left join shop.port p on p.code = s.port order by s.id
  select p.code, s.id from shop.sale s right join shop.port p on p.code = s.port order by 1, 2
  select p.code, s.id from shop.sale s full join shop.port p on p.code = s.port and s.id < 5 order by 1, 2
  select count(*) from shop.sale cross join shop.port
  select a.id, b.id from shop.sale a join shop.sale b using (day, port) order by 1
  select count(*) from shop.sale a natural join shop.sale b
  select j.day, j.port from shop.sale a join shop.sale b using (day, port) as j order by 1
  select p.code, t.id from shop.port p cross join lateral (select id from shop.sale s where s.port = p.code order by amount desc, id limit 2) t order by 1, 2
  select p.code, t.n from shop.port p left join lateral (select count(*) as n from shop.sale s where s.port = p.code) t on true order by 1
  select s.id, t.tag from shop.sale s, unnest(s.tags) as t(tag) order by 1, 2
  select s.id, t.tag, t.place from shop.sale s cross join unnest(s.tags) with ordinality as t(tag, place) order by 1, 3
  select * from unnest(array[1, 2, 3], array['a', 'b']) as u(n, c)
  select * from rows from (generate_series(1, 3), unnest(array['x', 'y'])) with ordinality as r(n, c, place)
  select g.day::date, count(s.id) from generate_series(timestamp '2026-01-01', timestamp '2026-01-10', interval '1 day') as g(day) left join shop.sale s on s.day = g.day::date group by 1 order by 1
  select i, j from generate_series(1, 3) i, generate_series(i, 3) j order by 1, 2
  select id, e.key, e.value from shop.sale, jsonb_each(info) e where id < 4 order by 1, 2
  select id, a.value::int from shop.sale, jsonb_array_elements(info #> '{who,ages}') as a(value) where id < 4 order by 1, 2
  select id, r.name, r.ages from shop.sale, jsonb_to_record(info -> 'who') as r(name text, ages int[]) where id < 4 order by 1
  select * from jsonb_to_recordset('[{"a": 1, "b": "x"}, {"a": 2}]') as r(a int, b text)
  select * from json_to_recordset('[{"a": 1}]') as r(a numeric)
  select id, k from shop.sale, jsonb_object_keys(info) k where id < 3 order by 1, 2
  select id, t.word from shop.sale, regexp_split_to_table(note, '\s+') as t(word) where id < 3 order by 1, 2
  select id, m from shop.sale, regexp_matches(note, '[a-z]+', 'g') as m where id < 3 order by 1, 2
  select id, t from shop.sale, string_to_table(note, ' ') t where id < 3 order by 1, 2
  select generate_subscripts(array['a', 'b'], 1), unnest(array['a', 'b'])
  with big as (select * from shop.sale where amount > 50) select port, count(*) from big group by port order by 1
  with a as (select 1 as x), b as (select x + 1 as y from a) select * from a, b
  with a as materialized (select * from shop.sale), b as not materialized (select * from a where paid) select count(*) from b
  with a(x, y) as (values (1, 'one'), (2, 'two')) select y from a where x = 2
  with recursive n(i) as (select 1 union all select i + 1 from n where i < 5) select * from n
  with recursive tree(code, path) as (select code, array[code] from shop.port where parent is null union all select p.code, t.path || p.code from shop.port p join tree t on p.parent = t.code) select * from tree order by path
  with recursive tree as (select code, parent from shop.port where parent is null union all select p.code, p.parent from shop.port p join tree t on p.parent = t.code) search depth first by code set place select code from tree order by place
  with recursive tree as (select code, parent from shop.port where parent is null union all select p.code, p.parent from shop.port p join tree t on p.parent = t.code) search breadth first by code set place select code from tree order by place
  with recursive tree as (select code, parent from shop.port where code = 'ULV' union all select p.code, p.parent from shop.port p join tree t on p.parent = t.code) cycle code set again using way select code, again from tree order by 1
  select id from shop.sale where port in (select code from shop.port where lat > 58) order by id
  select id from shop.sale s where not exists (select 1 from shop.port p where p.code = s.port) order by id
  select id from shop.sale where amount > (select avg(amount) from shop.sale) order by id
  select id from shop.sale where (port, qty) in (select code, 2 from shop.port) order by id
  select id from shop.sale where amount >= all (select amount from shop.sale) order by id
  select id, (select name from shop.port p where p.code = s.port) as port from shop.sale s order by id
  select code from shop.port union select port from shop.sale order by 1
  select code from shop.port union all select 'x' order by 1
  select code from shop.port intersect select port from shop.sale order by 1
  select code from shop.port except select port from shop.sale order by 1
  (select id from shop.sale order by amount desc, id limit 2) union all (select id from shop.sale order by amount, id limit 2) order by 1
  values (1, 'a'), (2, 'b') order by 1 desc
  select * from (values (1, 'a'), (2, 'b')) as v(n, c) where n > 1
  table shop.port order by code
  select id from shop.sale order by amount desc nulls last, id limit 5 offset 2
  select id from shop.sale order by id fetch first 3 rows only
  select qty from shop.sale order by qty fetch first 3 rows with ties
  select id from shop.sale order by id offset 3 rows fetch next 2 rows only
  select id from shop.sale order by note using <, id using > limit 3
  select id from shop.sale order by note collate "C" desc, id limit 3
  select id as "Number", amount "Sum" from shop.sale order by "Number" limit 3
  select count(*) from shop.sale tablesample bernoulli (100)
  select count(*) from shop.sale as s tablesample system (100) repeatable (7)
  select count(*) from only shop.sale
  select s from shop.port s order by 1
  select (s).name, s.* from shop.port s order by 1
  select row(p.code, p.name) from shop.port p order by 1
  select row_to_json(p), to_jsonb(p) from shop.port p order by p.code
  select json_agg(p order by code) from shop.port p
  select jsonb_build_object('port', p.code, 'sales', (select jsonb_agg(s.id order by s.id) from shop.sale s where s.port = p.code and s.id < 12)) from shop.port p order by p.code
  select date_trunc('week', at)::date as week, sum(amount) as total, sum(sum(amount)) over (order by date_trunc('week', at)) as running from shop.sale group by 1, date_trunc('week', at) order by 1
  select port, amount, amount - avg(amount) over (partition by port) as off, 100.0 * amount / sum(amount) over () as share from shop.sale order by id limit 10
  select width_bucket(amount, 0, 100, 10) as bucket, count(*), int4range(min(qty), max(qty), '[]') from shop.sale group by bucket order by bucket
  select port, sum(case when paid then amount else 0 end) as paid, sum(case when not paid then amount end) as open from shop.sale group by port order by port
  select count(*) filter (where day < date '2026-02-01') as january, count(*) filter (where day >= date '2026-02-01') as later from shop.sale
  select s.day, s.amount, (select sum(b.amount) from shop.sale b where b.day between s.day - 6 and s.day) as week from shop.sale s order by s.day limit 10
  select a.id, b.id from shop.sale a join shop.sale b on a.span && b.span and a.id < b.id order by 1, 2 limit 10
  select port, array_agg(distinct t order by t) from shop.sale, unnest(tags) t group by port order by port
  select id from shop.sale where tags @> array['t1'] and info @> '{"k": 1}' order by id
  select id from shop.sale where note ilike any (array['%1', '%2']) order by id
  select id from shop.sale where extract(hour from at) between 8 and 12 and extract(isodow from at) < 6 order by id
  select to_char(day, 'YYYY-MM') as month, count(*) from shop.sale group by month having count(*) > 1 order by month
  select percentile_cont(array[0.1, 0.5, 0.9]) within group (order by took) from shop.sale
  select name, 6371 * acos(least(1, sin(radians(lat)) * sin(radians(58.97)) + cos(radians(lat)) * cos(radians(58.97)) * cos(radians(lon - 5.73)))) as km from shop.port order by km
  select p.name, coalesce(n.sales, 0) from shop.port p left join (select port, count(*) as sales from shop.sale group by port) n on n.port = p.code order by 1
  select string_agg(format('%s=%s', key, value), ', ' order by key) from (select port as key, count(*) as value from shop.sale where port is not null group by port) q
  select current_date >= date '2020-01-01', current_timestamp > timestamptz '2020-01-01', localtime is not null, localtimestamp is not null, now() = statement_timestamp() or true
  select setseed is null from (select null::float8 as setseed) q
  select random() between 0 and 1, clock_timestamp() is not null, timeofday() is not null
  select id from shop.sale where id = any ('{1,2,3}') order by id
  select cast('2026-01-01' as date) + 1, date '2026-01-01' + time '08:00', '1 day'::interval, interval '1' day, timestamp with time zone '2026-01-01 00:00+01', time with time zone '08:00+01'
  select greatest('a', 'b'), least(1, 2.5), nullif('a', 'a'), coalesce(null, null, 3)
  select not true, true and null, null or true, 1 = 1 is true, (null = null) is null
  select sum(n) from (select count(*) as n from shop.sale group by port) t
  select count(*) from shop.sale s where s.port is not null and s.qty % 2 = 0 and s.note not similar to '%(x|y)%'
`);

/** Every statement, each one once. */
export const STATEMENTS = [
  ...EXPRESSIONS.map((expression) => `select ${expression} from shop.sale s where s.id <= 3 order by s.id`),
  ...WHOLE,
];
