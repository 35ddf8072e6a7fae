/** Where talks keep their pictures (ECMA-376; ISO/IEC 26300). */
export const isPictureOfTalk = (name: string): boolean => /^(ppt\/media|Pictures)\/[^/]+\.(png|jpe?g|gif|bmp|webp)$/i.test(name);
