/** A text on one line, without what is blank around it. */
export const onOneLine = (text: string): string => text.replace(/\s+/g, ' ').trim();

/** How a text begins, with a sign that more follows where it is longer than so many letters (UTF-16 units); no character is cut in half. */
export const shortened = (text: string, most: number): string =>
  text.length > most ? `${text.slice(0, most).replace(/[\uD800-\uDBFF]$/, '')} …` : text;
