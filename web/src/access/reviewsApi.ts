import type { accessEndpoints } from '@idrel/contract/access';
import type { AnswerOf } from '@idrel/contract/http';
import { call, type Input } from '@idrel/contract/http/address';
import { api } from '../app/api.ts';

type Access = typeof accessEndpoints;

const reviewsApi = api.injectEndpoints({
  endpoints: (build) => ({
    reviews: build.query<AnswerOf<Access['reviews']>, void>({
      query: () => call<Access['reviews']>('get', '/access/reviews'),
      providesTags: ['Review', 'Person'],
    }),
    rightsForReview: build.query<AnswerOf<Access['reviewed']>, string | null>({
      query: (filter) => call<Access['reviewed']>('post', '/access/reviews/found', { body: { filter } }),
      providesTags: ['Policy', 'Person', 'Finding'],
    }),
    startReview: build.mutation<AnswerOf<Access['startReview']>, Input<Access['startReview']>['body']>({
      query: (body) => call<Access['startReview']>('post', '/access/reviews', { body }),
      invalidatesTags: ['Review'],
    }),
    reviewItems: build.query<AnswerOf<Access['reviewItems']>, { id: string } & Input<Access['reviewItems']>['query']>({
      query: ({ id, ...query }) =>
        call<Access['reviewItems']>('get', '/access/reviews/:id/items', { params: { id }, query }),
      providesTags: ['Review', 'Policy', 'Person'],
    }),
    decideRight: build.mutation<AnswerOf<Access['decideRight']>, { id: string } & Input<Access['decideRight']>['body']>(
      {
        query: ({ id, ...body }) =>
          call<Access['decideRight']>('put', '/access/reviews/items/:id', { params: { id }, body }),
        invalidatesTags: ['Review', 'Request', 'Policy'],
      },
    ),
    reviewEffect: build.query<AnswerOf<Access['reviewEffect']>, string>({
      query: (id) => call<Access['reviewEffect']>('get', '/access/reviews/:id/effect', { params: { id } }),
      providesTags: ['Review', 'Policy', 'Person', 'Finding'],
    }),
    endReview: build.mutation<AnswerOf<Access['endReview']>, { id: string } & Input<Access['endReview']>['body']>({
      query: ({ id, ...body }) =>
        call<Access['endReview']>('post', '/access/reviews/:id/end', { params: { id }, body }),
      invalidatesTags: ['Review', 'Request', 'Policy'],
    }),
  }),
});
export const {
  useReviewsQuery,
  useRightsForReviewQuery,
  useStartReviewMutation,
  useReviewItemsQuery,
  useDecideRightMutation,
  useReviewEffectQuery,
  useEndReviewMutation,
} = reviewsApi;
