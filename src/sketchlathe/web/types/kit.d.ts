// The drawing library, as it is vendored: its own types are not.
declare module 'three-kit';
