import { Module } from '@nestjs/common';
import { LiveService } from './live.service.ts';

/** The route stands in the app's own module: it needs access, which itself tells what changed. */
@Module({ providers: [LiveService], exports: [LiveService] })
export class LiveModule {}
