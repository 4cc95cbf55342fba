import { createServer } from 'node:http';

// An address that takes messages: how many came, how many twice, how long after what they tell of.
const ids = new Set();
let twice = 0;
let late = [];
const server = createServer((request, response) => {
  let text = '';
  request.on('data', (chunk) => {
    text += chunk;
  });
  request.on('end', () => {
    const id = request.headers['webhook-id'];
    if (ids.has(id)) twice += 1;
    else {
      ids.add(id);
      late.push(Date.now() - Date.parse(JSON.parse(text).time));
    }
    response.writeHead(204).end();
  });
});
server.listen(0, '127.0.0.1', () => process.send({ port: server.address().port }));
process.on('message', (asked) => {
  if (asked === 'forget') {
    ids.clear();
    twice = 0;
    late = [];
  }
  const sorted = late.length < 60_000 ? late : [...late].sort((a, b) => a - b);
  const at = (share) => sorted[Math.min(sorted.length - 1, Math.floor(share * sorted.length))];
  process.send({ ids: ids.size, twice, late: { p50: at(0.5), p95: at(0.95), most: at(1) } });
});
process.on('disconnect', () => process.exit(0));
