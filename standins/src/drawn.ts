import { BarChart, LineChart } from 'echarts/charts';
import { GridComponent, LegendComponent, TitleComponent } from 'echarts/components';
import { init, use } from 'echarts/core';
import { SVGRenderer } from 'echarts/renderers';

use([BarChart, LineChart, GridComponent, LegendComponent, TitleComponent, SVGRenderer]);

/** What a report showed when it was last drawn. */
export interface Drawn {
  readonly title: string;
  readonly over: readonly string[];
  readonly series: readonly {
    readonly name: string;
    readonly as: 'bar' | 'line';
    readonly values: readonly number[];
  }[];
}

/** The report as an image: SVG, 720 by 320 points. */
export function drawn({ title, over, series }: Drawn): string {
  const chart = init(null, null, { renderer: 'svg', ssr: true, width: 720, height: 320 });
  chart.setOption({
    animation: false,
    backgroundColor: '#ffffff',
    color: ['#4a6fa5', '#b5651d', '#6b8e4e'],
    title: { text: title, left: 16, top: 12, textStyle: { fontSize: 15 } },
    legend: { right: 16, top: 14, itemGap: 32 },
    grid: { left: 60, right: 24, top: 60, bottom: 36 },
    xAxis: { type: 'category', data: [...over] },
    yAxis: { type: 'value' },
    series: series.map(({ name, as, values }) => ({ name, type: as, data: [...values] })),
  });
  const svg = chart.renderToSVGString();
  chart.dispose();
  return svg;
}
