const KEPT = /^idrel:picture\/([0-9a-f-]{36})$/;
const SHOWN = /^\/api\/v1\/pictures\/([0-9a-f-]{36})$/;

/** Where a picture of a text is shown from; what is not kept here stays as it is, and is not shown. */
export const pictureAddress = (written: string): string => written.replace(KEPT, '/api/v1/pictures/$1');
/** How it is written in the text. */
export const pictureId = (shown: string): string => shown.replace(SHOWN, 'idrel:picture/$1');
