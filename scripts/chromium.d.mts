export declare const HEADLESS: string;
export declare const WHOLE: string;
export declare function chromiumPath(): string;
