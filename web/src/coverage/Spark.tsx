/** How a figure came to be, small, with the difference in words. @param told says it, of the first and the last value */
export function Spark({
  values,
  told,
  width = 80,
}: {
  values: readonly number[];
  told: (first: number, last: number) => string;
  width?: number;
}) {
  const [first, last] = [values[0], values.at(-1)];
  if (values.length < 2 || first === undefined || last === undefined) return <span className="quiet">–</span>;
  const most = Math.max(...values) || 1;
  const points = values
    .map((value, index) => `${(index / (values.length - 1)) * (width - 2) + 1},${17 - (value / most) * 15}`)
    .join(' ');
  return (
    <span className="row">
      <svg width={width} height={18} aria-hidden="true">
        <polyline points={points} fill="none" stroke="var(--kelp)" strokeWidth={1.5} />
      </svg>
      <span className="small quiet">{told(first, last)}</span>
    </span>
  );
}
