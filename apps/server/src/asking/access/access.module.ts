import { Module } from '@nestjs/common';
import { TypeOrmModule } from '@nestjs/typeorm';
import { ConfigurationModule } from '../../ground/configuration/configuration.module.ts';
import { DemoNotice } from '../../ground/platform/demoNotice.ts';
import { OwnersModule } from '../owners/owners.module.ts';
import { AccessController } from './access.controller.ts';
import { AccessGuard } from './access.guard.ts';
import { AccessService } from './access.service.ts';
import { GrantsController } from './grants.controller.ts';
import { GrantsService } from './grants.service.ts';
import { PeopleController } from './people.controller.ts';
import { PeopleService } from './people.service.ts';
import { PersonEntity, SessionEntity } from './person.entity.ts';
import { TokenEntity } from './token.entity.ts';
import { TokensController } from './tokens.controller.ts';
import { TokensService } from './tokens.service.ts';

@Module({
  imports: [TypeOrmModule.forFeature([PersonEntity, SessionEntity, TokenEntity]), ConfigurationModule, OwnersModule],
  controllers: [AccessController, PeopleController, GrantsController, TokensController],
  providers: [AccessService, PeopleService, GrantsService, TokensService, AccessGuard, DemoNotice],
  exports: [AccessService, GrantsService, AccessGuard, DemoNotice],
})
export class AccessModule {}
