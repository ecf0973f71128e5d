export { exchanged, POINT_ORDERS, readPointList, pointListRows } from './point-list.js';
export type { ListedPoint, PointOrder } from './point-list.js';
