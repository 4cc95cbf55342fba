import { BarChart, LineChart } from 'echarts/charts';
import { GridComponent, TooltipComponent } from 'echarts/components';
import { init, use } from 'echarts/core';
import { SVGRenderer } from 'echarts/renderers';
import { useEffect, useRef } from 'react';

use([LineChart, BarChart, GridComponent, TooltipComponent, SVGRenderer]);

/** Colours of the theme, as charts need them. */
export const inkOf = (name: string): string => getComputedStyle(document.documentElement).getPropertyValue(name).trim();

/** A chart; what it shows must stand in words beside it, since it is a picture to those who do not see. */
export function Chart({ option, height, label }: { option: object; height: number; label: string }) {
  const place = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (!place.current) return;
    const chart = init(place.current, undefined, { renderer: 'svg' });
    chart.setOption({ animation: false, textStyle: { fontFamily: 'inherit' }, ...option });
    const watch = new ResizeObserver(() => chart.resize());
    watch.observe(place.current);
    return () => {
      watch.disconnect();
      chart.dispose();
    };
  }, [option]);
  return <div ref={place} role="img" aria-label={label} style={{ height }} />;
}
