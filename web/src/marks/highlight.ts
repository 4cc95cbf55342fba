import type { ElementContent } from 'hast';
import bash from 'highlight.js/lib/languages/bash';
import java from 'highlight.js/lib/languages/java';
import javascript from 'highlight.js/lib/languages/javascript';
import json from 'highlight.js/lib/languages/json';
import pgsql from 'highlight.js/lib/languages/pgsql';
import python from 'highlight.js/lib/languages/python';
import r from 'highlight.js/lib/languages/r';
import scala from 'highlight.js/lib/languages/scala';
import sql from 'highlight.js/lib/languages/sql';
import yaml from 'highlight.js/lib/languages/yaml';
import { createLowlight } from 'lowlight';

const known = createLowlight({ bash, java, javascript, json, pgsql, python, r, scala, sql, yaml });

/** A stretch of a line that looks one way; `look` is empty where it is plain. */
export interface Stretch {
  readonly text: string;
  readonly look: string;
}

/** What stands for a language of which only its name is told; SQL where it is not known. */
export function languageOf(name: string | undefined): string {
  const small = name?.toLowerCase() ?? '';
  if (known.registered(small)) return small;
  return /pyspark|python/.test(small) ? 'python' : /shell|sh$/.test(small) ? 'bash' : 'pgsql';
}

/** Code by its lines, each in stretches of one look. A text or comment over several lines looks the same on each. */
export function highlighted(code: string, language: string): Stretch[][] {
  const lines: Stretch[][] = [[]];
  const walk = (nodes: readonly ElementContent[], look: string): void => {
    for (const node of nodes) {
      if (node.type === 'element') {
        const own = node.properties.className;
        walk(node.children, Array.isArray(own) ? own.join(' ') : look);
      }
      if (node.type !== 'text') continue;
      const [first = '', ...more] = node.value.split('\n');
      if (first) lines.at(-1)?.push({ text: first, look });
      for (const text of more) lines.push(text ? [{ text, look }] : []);
    }
  };
  walk(known.highlight(language, code).children as ElementContent[], '');
  return lines;
}
