import 'reflect-metadata';
import { plainToInstance, Type, type ClassConstructor } from 'class-transformer';
import {
  ArrayMaxSize,
  ArrayMinSize,
  IsArray,
  IsBoolean,
  IsIn,
  IsInt,
  IsNumber,
  IsObject,
  IsOptional,
  IsString,
  Length,
  Matches,
  Max,
  MaxLength,
  Min,
  ValidateNested,
  validateSync,
  type ValidationError,
} from 'class-validator';
import {
  PRESET_KINDS,
  SHARE_KINDS,
  SHARE_RIGHTS,
  SHELF_ORDERS,
  type HereNow,
  type ManyPresets,
  type MergePresets,
  type NewDrop,
  type NewJob,
  type NewSession,
  type NewPack,
  type NewPassword,
  type NewShare,
  type NewUpload,
  type OfShelf,
  type PresetMeta,
  type PresetShelf,
  type SessionQuery,
  type ShareKind,
  type ShareRight,
  type ShelfOrder,
  type ShelfQuery,
  type ShelfSearch,
  type SignIn,
  type TakePack,
  type UpdateSessions,
  type Versions,
} from '../../contract/index.ts';
import type { PresetKind, Session } from '../../core/index.ts';
import { HttpProblem } from './problem.ts';

/** Checks a body or query at the door: unknown fields are refused, every message names its field. */
export function check<T extends object>(
  cls: ClassConstructor<T>,
  raw: unknown,
  from: 'body' | 'query' = 'body',
): T {
  if (typeof raw !== 'object' || raw === null || Array.isArray(raw)) {
    throw new HttpProblem('not-readable', 'A JSON object is expected.');
  }
  const value = plainToInstance(cls, raw, { enableImplicitConversion: from === 'query' });
  const errors = flatten(
    validateSync(value, { whitelist: true, forbidNonWhitelisted: true, forbidUnknownValues: true }),
  );
  if (errors.length) throw new HttpProblem('not-valid', errors[0].message, errors);
  return value;
}

const flatten = (list: ValidationError[], path = ''): { field: string; message: string }[] =>
  list.flatMap((e) => [
    ...Object.values(e.constraints ?? {}).map((message) => ({ field: `${path}/${e.property}`, message })),
    ...flatten(e.children ?? [], `${path}/${e.property}`),
  ]);

/** of a column for whole numbers */
export const LARGEST = 2 ** 31 - 1;
/** bytes of one file */
const LARGEST_FILE = 64e9;
export const ID = /^[\w.-]{1,64}$/;

export class NewSessionDto implements NewSession {
  @IsString()
  @Matches(/\S/, { message: 'A session’s name is not only blanks.' })
  @Length(1, 200, { message: 'A session’s name has 1 to 200 characters.' })
  name: string;
  @IsOptional() @IsNumber() @Min(10) @Max(999) tempo?: number;
  @IsOptional() @IsInt() @Min(8000) @Max(384000) sampleRate?: number;
  @IsOptional() @IsIn([16, 24, 32]) bitDepth?: 16 | 24 | 32;
  @IsOptional() @IsString() @Matches(ID) copyOf?: string;
  /** a starter, or another preset in an empty session */
  @IsOptional() @IsString() @Matches(ID) preset?: string;
  @IsOptional() @IsInt() @Min(1) @Max(LARGEST) version?: number;
}

/** Lists in a list are looked through by the validator as if they were one: their members would be taken for it. */
const NO_LISTS = '$property is a list of JSON objects.';

class OpDto {
  @IsIn(['add', 'remove', 'replace'], {
    message: 'A change is made of add, remove and replace; copy could double a session with every line.',
  })
  op: string;
  @IsString() @MaxLength(1000) path: string;
  @IsOptional() value?: unknown;
}

export class PatchDto {
  @IsArray()
  @ArrayMaxSize(20000)
  @IsObject({ each: true, message: NO_LISTS })
  @ValidateNested({ each: true })
  @Type(() => OpDto)
  ops: OpDto[];
}

export class NewPresetDto {
  @IsObject({ message: 'A preset is a JSON object.' }) preset: object;
}

export class PresetMetaDto implements PresetMeta {
  @IsOptional()
  @IsString()
  @Matches(/\S/, { message: 'A preset’s name is not only blanks.' })
  @Length(1, 200, { message: 'A preset’s name has 1 to 200 characters.' })
  name?: string;
  @IsOptional() @IsString() @MaxLength(200) category?: string;
  @IsOptional()
  @IsArray()
  @ArrayMaxSize(30)
  @IsString({ each: true })
  @Length(1, 60, { each: true, message: 'A tag has 1 to 60 characters.' })
  tags?: string[];
  @IsOptional() @IsBoolean() pinned?: boolean;
}

/** letters of a page's marker: a name of 200 letters is up to 800 bytes, a third more as it is written */
const LONGEST_MARKER = 2000;

export class ShelfSearchDto implements ShelfSearch {
  @IsOptional() @IsString() @MaxLength(200) q?: string;
  @IsOptional() @IsIn(PRESET_KINDS) kind?: PresetKind;
  @IsOptional() @IsString() @MaxLength(200) category?: string;
  @IsOptional() @IsString() @MaxLength(60) tag?: string;
  @IsOptional() @IsIn(['true', 'false']) pinned?: 'true' | 'false';
  @IsOptional() @IsIn(SHELF_ORDERS) sort?: ShelfOrder;
}
export class KeptSearchDto {
  @ValidateNested() @Type(() => ShelfSearchDto) @IsObject() search: ShelfSearchDto;
}

export class ShelfQueryDto extends ShelfSearchDto implements ShelfQuery {
  @IsOptional() @IsString() @Matches(ID) of?: string;
  @IsOptional() @IsString() @Matches(ID) parent?: string;
  @IsOptional() @IsString() @MaxLength(LONGEST_MARKER) after?: string;
  @IsOptional() @Type(() => Number) @IsInt() @Min(1) @Max(200) limit?: number;
}

export class SessionQueryDto implements SessionQuery {
  @IsOptional() @IsString() @MaxLength(200) q?: string;
  @IsOptional() @IsString() @MaxLength(200) folder?: string;
  @IsOptional() @IsString() @MaxLength(LONGEST_MARKER) after?: string;
  @IsOptional() @Type(() => Number) @IsInt() @Min(1) @Max(200) limit?: number;
}
export class FolderDto {
  @IsString() @MaxLength(200, { message: 'The name of a folder has at most 200 characters.' }) folder: string;
}

export class VersionsDto implements Versions {
  @IsArray() @ArrayMaxSize(2000) @IsString({ each: true }) ids: string[];
}

export class UpdateSessionsDto implements UpdateSessions {
  @IsArray() @ArrayMaxSize(1000) @Matches(ID, { each: true }) sessions: string[];
  /** only says what would happen */
  @IsOptional() @IsBoolean() look?: boolean;
}

export class DropDto implements NewDrop {
  @IsString() @Matches(ID, { message: 'A drop needs an id.' }) id: string;
  @IsString() @Matches(ID) session: string;
  @IsString() @Matches(ID) preset: string;
  @IsInt() @Min(1) @Max(LARGEST) version: number;
  @IsObject() record: object;
}

export class DefaultDto {
  @IsOptional() @IsString() @Matches(ID) preset?: string;
  @IsOptional() @IsObject() params?: object;
}

export class FileQueryDto {
  @IsOptional() @IsString() @MaxLength(255) name?: string;
  /** it was sent in pieces before */
  @IsOptional() @Matches(/^[0-9a-f]{64}$/) upload?: string;
}
export class ManyDto implements ManyPresets {
  @IsArray() @ArrayMinSize(1) @ArrayMaxSize(5000) @Matches(ID, { each: true }) ids: string[];
  @IsOptional()
  @IsArray()
  @ArrayMaxSize(30)
  @IsString({ each: true })
  @Length(1, 60, { each: true })
  tag?: string[];
  @IsOptional() @IsArray() @ArrayMaxSize(30) @IsString({ each: true }) untag?: string[];
  @IsOptional() @IsString() @MaxLength(200) category?: string;
  @IsOptional() @IsString() @Length(1, 32) colour?: string;
  @IsOptional() @IsBoolean() pinned?: boolean;
}
class PresetShelfDto implements PresetShelf {
  @IsString() @Matches(ID) id: string;
  @IsString() @MaxLength(200) category: string;
  @IsString() @Length(1, 32) colour: string;
  @IsBoolean() pinned: boolean;
  @IsArray() @ArrayMaxSize(30) @IsString({ each: true }) @Length(1, 60, { each: true }) tags: string[];
  @IsOptional() @Matches(ID) parent?: string | null;
}
export class MergeDto implements MergePresets {
  @IsArray() @ArrayMinSize(1) @ArrayMaxSize(200) @Matches(ID, { each: true }) others: string[];
  @IsIn(['versions', 'variants']) as: MergePresets['as'];
}
export class NearQueryDto {
  @IsOptional() @Type(() => Number) @IsInt() @Min(1) @Max(60) limit?: number;
}
export class NearGroupsQueryDto {
  @IsOptional() @Type(() => Number) @IsNumber() @Min(0) @Max(0.9) within?: number;
}
export class ManyPutDto {
  @IsArray()
  @ArrayMaxSize(5000)
  @IsObject({ each: true, message: NO_LISTS })
  @ValidateNested({ each: true })
  @Type(() => PresetShelfDto)
  presets: PresetShelfDto[];
}
export class ClearOutQueryDto {
  @IsOptional() @IsString() @Matches(ID) after?: string;
}
export class TrashQueryDto {
  @IsOptional() @Type(() => Number) @IsInt() @Min(0) @Max(LARGEST) from?: number;
}
export class NewPackDto implements NewPack {
  @IsOptional() @IsArray() @ArrayMaxSize(20_000) @Matches(ID, { each: true }) presets?: string[];
  @IsOptional() @IsString() @MaxLength(200) category?: string;
  @IsOptional() @IsArray() @ArrayMaxSize(500) @Matches(ID, { each: true }) setups?: string[];
  @IsOptional() @IsArray() @ArrayMaxSize(1000) @Matches(ID, { each: true }) sessions?: string[];
  @IsOptional() @IsBoolean() everything?: boolean;
  @IsOptional() @IsIn(['all', 'newest']) versions?: 'all' | 'newest';
}
export class TakePackDto implements TakePack {
  @Matches(/^[0-9a-f]{64}$/, { message: 'A pack is sent in pieces first: /api/uploads.' }) upload: string;
  @IsOptional() @IsArray() @ArrayMaxSize(1_000_000) @IsString({ each: true }) leave?: string[];
}
export class NewUploadDto implements NewUpload {
  @IsString() @Length(1, 255) name: string;
  @IsInt()
  @Min(1)
  @Max(LARGEST_FILE, { message: 'At most 64 GB are taken in one file. Split it.' })
  size: number;
}
export class PieceQueryDto {
  @Type(() => Number) @IsInt() @Min(0) @Max(LARGEST_FILE) at: number;
}

export class SetupDto {
  @IsObject({ message: 'A setup of a studio is a JSON object.' }) studio: object;
}

class TogetherDto {
  @IsNumber() @Min(-60) @Max(0) target: number;
  @IsNumber() @Min(-40) @Max(0) ceiling: number;
}
class NewJobSongDto {
  @IsString() @Matches(ID) session: string;
  @IsOptional() @IsObject() document?: Session;
}
export class NewJobDto implements NewJob {
  @IsArray()
  @ArrayMinSize(1, { message: 'A print is of one session at least.' })
  @ArrayMaxSize(100, { message: 'At most 100 sessions are printed in a row.' })
  @IsObject({ each: true, message: NO_LISTS })
  @ValidateNested({ each: true })
  @Type(() => NewJobSongDto)
  songs: NewJobSongDto[];
  @IsOptional() @IsObject() @ValidateNested() @Type(() => TogetherDto) together?: TogetherDto;
}

export class OfShelfDto implements OfShelf {
  @IsOptional() @IsString() @Matches(ID) of?: string;
}
export class SignInDto implements SignIn {
  @IsString() @Length(1, 200) name: string;
  @IsString() @MaxLength(1000) password: string;
}
export class NewPasswordDto implements NewPassword {
  @IsString() @MaxLength(1000) old: string;
  @IsString() @MaxLength(1000) password: string;
}
export class NewShareDto implements NewShare {
  @IsString() @Matches(ID) person: string;
  @IsIn(SHARE_KINDS) kind: ShareKind;
  @IsOptional() @IsString() @Matches(ID) thing?: string;
  @IsIn(SHARE_RIGHTS) right: ShareRight;
}
export class HereNowDto implements HereNow {
  @IsOptional() @IsString() @Matches(ID) line?: string | null;
}
