/** The parts of the chart library that the ribbon needs, loaded when it is first shown. */
import { BarChart } from 'echarts/charts';
import { BrushComponent, GridComponent, ToolboxComponent } from 'echarts/components';
import * as echarts from 'echarts/core';
import { CanvasRenderer } from 'echarts/renderers';

echarts.use([BarChart, GridComponent, BrushComponent, ToolboxComponent, CanvasRenderer]);

export type Chart = echarts.ECharts;
export const makeChart = (element: HTMLElement): Chart => echarts.init(element);
