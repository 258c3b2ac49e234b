// Libraries that come without types: what they give is taken as it is.
declare module "three";
declare module "three/addons/*";
