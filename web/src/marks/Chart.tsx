import { useComputedColorScheme } from '@mantine/core';
import { BarChart, LineChart } from 'echarts/charts';
import { GridComponent, TooltipComponent } from 'echarts/components';
import { init, use } from 'echarts/core';
import { SVGRenderer } from 'echarts/renderers';
import { useEffect, useRef } from 'react';

use([LineChart, BarChart, GridComponent, TooltipComponent, SVGRenderer]);

/** A colour of the theme, as charts need it. */
export const ink = (name: string): string => getComputedStyle(document.documentElement).getPropertyValue(name).trim();

/** Axes as the theme draws lines and small text. */
function inTheme(axis: object): object {
  const line = { lineStyle: { color: ink('--hairline') } };
  return {
    axisLabel: { color: ink('--quiet') },
    nameTextStyle: { color: ink('--quiet') },
    axisLine: line,
    axisTick: line,
    splitLine: line,
    ...axis,
  };
}

/** A chart; what it shows must stand in words beside it, since it is a picture to those who do not see. */
export function Chart({
  option,
  height,
  label,
}: {
  option: { xAxis: object; yAxis: object };
  height: number;
  label: string;
}) {
  const scheme = useComputedColorScheme();
  const frame = useRef<HTMLDivElement>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the colours are read anew when the theme changes
  useEffect(() => {
    if (!frame.current) return;
    const chart = init(frame.current, undefined, { renderer: 'svg' });
    chart.setOption({
      animation: false,
      textStyle: { fontFamily: 'inherit' },
      ...option,
      xAxis: inTheme(option.xAxis),
      yAxis: inTheme(option.yAxis),
    });
    const watch = new ResizeObserver(() => chart.resize());
    watch.observe(frame.current);
    return () => {
      watch.disconnect();
      chart.dispose();
    };
  }, [option, scheme]);
  return <div ref={frame} role="img" aria-label={label} style={{ height }} />;
}
