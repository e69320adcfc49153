import { createTheme, type MantineColorsTuple } from '@mantine/core';

const leather: MantineColorsTuple = [
  '#eaf3ee',
  '#d3e5db',
  '#a9cbb9',
  '#7fb196',
  '#57966f',
  '#3f8363',
  '#2d6f52',
  '#1f5b43',
  '#174a36',
  '#0f3828',
];

export const theme = createTheme({
  primaryColor: 'leather',
  primaryShade: { light: 7, dark: 5 },
  colors: { leather },
  defaultRadius: 6,
  fontFamily: '"Public Sans Variable", "Public Sans", sans-serif',
  headings: { fontFamily: '"Public Sans Variable", "Public Sans", sans-serif' },
  fontSizes: { xs: '13px', sm: '14px', md: '16px', lg: '18px', xl: '21px' },
  cursorType: 'pointer',
  focusRing: 'auto',
});
