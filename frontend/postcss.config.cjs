module.exports = {
  plugins: {
    'postcss-preset-mantine': {},
    'postcss-simple-vars': {
      variables: { 'breakpoint-narrow': '58em', 'breakpoint-phone': '36em', 'breakpoint-wide': '58.01em' },
    },
  },
};
