import { createTheme, type MantineColorsTuple } from '@mantine/core';

const kelp: MantineColorsTuple = [
  '#E6F1F0',
  '#CFE3E1',
  '#A5CBC8',
  '#79B1AD',
  '#549A96',
  '#3B8A86',
  '#2A7C79',
  '#0E5A5A',
  '#0B4B4B',
  '#073B3B',
];
const buoy: MantineColorsTuple = [
  '#FCEBE3',
  '#F7D3C3',
  '#EFAD90',
  '#E7865C',
  '#E06A37',
  '#D45520',
  '#C9481A',
  '#B03E15',
  '#8F3211',
  '#6E270D',
];

/** Mantine dressed as Idrel: small corners, hairlines, dense controls. Colours of text and ground are variables in base.css. */
export const theme = createTheme({
  primaryColor: 'kelp',
  primaryShade: { light: 7, dark: 7 },
  colors: { kelp, buoy },
  fontFamily: "'Schibsted Grotesk Variable', system-ui, sans-serif",
  fontFamilyMonospace: "'Commit Mono', ui-monospace, monospace",
  fontSizes: { xs: '12px', sm: '13.5px', md: '14.5px', lg: '16px', xl: '19px' },
  defaultRadius: '3px',
  cursorType: 'pointer',
  respectReducedMotion: true,
  components: {
    Button: { defaultProps: { size: 'xs' } },
    TextInput: { defaultProps: { size: 'xs' } },
    PasswordInput: { defaultProps: { size: 'xs' } },
    NumberInput: { defaultProps: { size: 'xs' } },
    Textarea: { defaultProps: { size: 'xs', autosize: true, minRows: 3 } },
    Select: { defaultProps: { size: 'xs' } },
    MultiSelect: { defaultProps: { size: 'xs' } },
    TagsInput: { defaultProps: { size: 'xs' } },
    Autocomplete: { defaultProps: { size: 'xs' } },
    SegmentedControl: { defaultProps: { size: 'xs' } },
    Group: { defaultProps: { gap: 8, wrap: 'nowrap' } },
    Stack: { defaultProps: { gap: 10 } },
    Tooltip: { defaultProps: { openDelay: 350, withArrow: false } },
  },
});
