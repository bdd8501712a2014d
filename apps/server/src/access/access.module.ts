import { Module } from '@nestjs/common';
import { TypeOrmModule } from '@nestjs/typeorm';
import { DemoNotice } from '../demo/demoNotice.ts';
import { AccessController } from './access.controller.ts';
import { AccessGuard } from './access.guard.ts';
import { AccessService } from './access.service.ts';
import { PeopleController } from './people.controller.ts';
import { PeopleService } from './people.service.ts';
import { PersonEntity, SessionEntity } from './person.entity.ts';

@Module({
  imports: [TypeOrmModule.forFeature([PersonEntity, SessionEntity])],
  controllers: [AccessController, PeopleController],
  providers: [AccessService, PeopleService, AccessGuard, DemoNotice],
  exports: [AccessService, AccessGuard, DemoNotice],
})
export class AccessModule {}
