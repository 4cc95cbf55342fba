import { timingSafeEqual } from 'node:crypto';
import type { ProblemCode } from '@idrel/contract/http';
import type { NextFunction, Request, Response } from 'express';
import { ApiProblem } from './problems.ts';
import { digest } from './secrets.ts';

/**
 * Lets nobody past but the one program that the operator named, by its secret as a bearer token, before anything of what it sends is read.
 * @param secret undefined: none is named, so nobody is let past
 */
export const onlyWith =
  (secret: string | undefined, code: ProblemCode, detail: string, mend: string) =>
  (request: Request, _response: Response, next: NextFunction): void => {
    const given = /^Bearer (\S+)$/i.exec(request.get('authorization') ?? '')?.[1] ?? '';
    // Digests are of one length, whatever was given.
    if (secret !== undefined && timingSafeEqual(digest(given), digest(secret))) next();
    else next(new ApiProblem(code, detail, { mend }));
  };
