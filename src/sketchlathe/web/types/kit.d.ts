// Libraries as they are vendored: without types of their own.
declare module 'three-kit';
declare module 'preact';
