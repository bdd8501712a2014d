export declare const HEADLESS: string;
export declare const WHOLE: string;
export declare function chromiumOptions(): { executablePath: string; args: string[] };
