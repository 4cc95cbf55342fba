export { Description } from './Description.tsx';
export { Facts } from './Facts.tsx';
