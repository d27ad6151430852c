import js from '@eslint/js';
import globals from 'globals';

export default [
  js.configs.recommended,
  { languageOptions: { globals: { ...globals.browser, htmx: 'readonly' } } },
  { rules: { 'no-unused-vars': ['error', { ignoreRestSiblings: true }] } },
  { files: ['tests/scripts/**'], languageOptions: { globals: globals.node } },
];
