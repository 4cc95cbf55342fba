export * from './exchange.ts';
export * from './schemes.ts';
export * from './terms.ts';
