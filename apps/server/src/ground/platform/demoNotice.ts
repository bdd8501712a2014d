import { Injectable } from '@nestjs/common';
import type { SessionAnswer } from '@zetopsis/contract';
import { readDemoFile } from './demoFile.ts';
import { Settings } from './settings.ts';

/** What the sign-in page shows in demo mode; null in every other mode. */
@Injectable()
export class DemoNotice {
  readonly notice: SessionAnswer['demo'];
  constructor(settings: Settings) {
    const { demoFile } = settings.config;
    const demo = demoFile === null ? null : readDemoFile(demoFile);
    this.notice = demo && {
      people: demo.people.map(({ name, does }) => ({ name, does })),
      password: demo.password,
      mailPage: demo.mailPage,
    };
  }
}
