/** So many assets are asked for at once. */
export const ASKED_MOST = 50;
