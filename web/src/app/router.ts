import { createRouter, createWebHistory } from 'vue-router'

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', name: 'designs', component: () => import('./DesignsView.vue') },
    {
      path: '/d/:designId',
      component: () => import('./DesignFrame.vue'),
      props: true,
      redirect: (to) => ({ name: 'survey', params: { designId: to.params.designId } }),
      children: [
        {
          path: 'survey/claims', // as it was called until 2026-11
          redirect: (to) => ({ name: 'survey', params: { ...to.params, grid: 'prefix_reservations' } }),
        },
        {
          path: 'survey/:grid(intents|rules|routes|filters)', // they stood there until 2026-11
          redirect: (to) => ({
            name: 'paths',
            params: { designId: to.params.designId, panel: 'tables', objectId: to.params.grid },
          }),
        },
        { path: 'survey/:grid?', name: 'survey', component: () => import('@/survey/SurveyView.vue') },
        { path: 'match/:tunnelId?', name: 'match', component: () => import('@/match/MatchView.vue') },
        { path: 'standards', name: 'standards', component: () => import('@/match/StandardsView.vue') },
        {
          path: 'match/:tunnelId/keys',
          name: 'compare-keys',
          component: () => import('@/match/CompareKeys.vue'),
        },
        {
          path: 'addresses/:panel?/:objectId?',
          name: 'addresses',
          component: () => import('@/addresses/AddressesView.vue'),
        },
        {
          path: 'paths/split/:profileId?', // it stood there until 2026-11
          redirect: (to) => ({ name: 'people', params: { ...to.params, panel: 'split' }, query: to.query }),
        },
        { path: 'paths/:panel?/:objectId?', name: 'paths', component: () => import('@/paths/PathsView.vue') },
        {
          path: 'people/:profileId?/:panel?',
          name: 'people',
          component: () => import('@/people/PeopleView.vue'),
        },
        {
          path: 'clouds/:panel?/:objectId?',
          name: 'clouds',
          component: () => import('@/clouds/CloudsView.vue'),
        },
        {
          path: 'rehearse/:tunnelId?',
          name: 'rehearse',
          component: () => import('@/rehearse/RehearseView.vue'),
        },
        {
          path: 'handover/:panel?/:objectId?',
          name: 'handover',
          component: () => import('@/handover/HandoverView.vue'),
        },
        { path: 'start', name: 'start', component: () => import('@/start/StartView.vue') },
        { path: 'connect', name: 'connect', component: () => import('@/start/ConnectView.vue') },
        { path: 'history', name: 'history', component: () => import('./HistoryView.vue') },
      ],
    },
    { path: '/reference', name: 'reference', component: () => import('@/reference/ApiReference.vue') },
    { path: '/:rest(.*)', redirect: '/' },
  ],
})
