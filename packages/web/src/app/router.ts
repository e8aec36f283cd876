import { createRouter, createWebHistory, START_LOCATION } from 'vue-router'
import ClothView from '../features/cloth/ClothView.vue'
import AppShell from './AppShell.vue'
import { inOurTheme } from '../ui/in-our-theme.ts'
import { useSession } from '../stores/session.ts'

/** The Cloth, where people are nearly always headed, comes with the first file; every other view when it is opened. */
export const router = createRouter({
  history: createWebHistory(),
  routes: [
    {
      path: '/sign-in',
      name: 'sign-in',
      component: inOurTheme(() => import('../features/sign-in/SignIn.vue')),
      meta: { open: true },
    },
    {
      path: '/begin',
      name: 'begin',
      component: inOurTheme(() => import('../features/entry/BeginView.vue')),
      meta: { open: true },
    },
    {
      path: '/join',
      name: 'join',
      component: inOurTheme(() => import('../features/entry/JoinView.vue')),
      meta: { open: true },
    },
    {
      path: '/guest',
      name: 'guest',
      component: () => import('../features/guest/GuestView.vue'),
      meta: { open: true },
    },
    {
      path: '/wall',
      name: 'wall',
      component: () => import('../features/guest/WallView.vue'),
      meta: { open: true },
    },
    {
      path: '/times',
      name: 'times',
      component: () => import('../features/offered/TimesView.vue'),
      meta: { open: true },
    },
    {
      path: '/booked',
      name: 'booked',
      component: () => import('../features/offered/BookedView.vue'),
      meta: { open: true },
    },
    {
      path: '/forgot',
      name: 'forgot',
      component: inOurTheme(() => import('../features/entry/ForgotView.vue')),
      meta: { open: true },
    },
    {
      path: '/new-password',
      name: 'new-password',
      component: inOurTheme(() => import('../features/entry/NewPasswordView.vue')),
      meta: { open: true },
    },
    {
      path: '/',
      component: AppShell,
      children: [
        { path: '', redirect: '/cloth' },
        { path: 'cloth', name: 'cloth', component: ClothView },
        {
          path: 'time',
          name: 'time',
          component: inOurTheme(() => import('../features/time/TimeReport.vue')),
        },
        {
          path: 'reminders',
          name: 'reminders',
          component: () => import('../features/reminders/RemindersView.vue'),
        },
        {
          path: 'invitations',
          name: 'invitations',
          component: inOurTheme(() => import('../features/invitations/InvitationsView.vue')),
        },
        { path: 'day', name: 'day', component: () => import('../features/day/DayView.vue') },
        {
          path: 'rules',
          name: 'rules',
          component: inOurTheme(() => import('../features/rules/RulesView.vue')),
        },
        {
          path: 'rules/conflicts',
          name: 'conflicts',
          component: inOurTheme(() => import('../features/rules/ConflictsView.vue')),
        },
        {
          path: 'rules/brake',
          name: 'brake',
          component: inOurTheme(() => import('../features/rules/BrakeView.vue')),
        },
        {
          path: 'rules/chains',
          name: 'chains',
          component: inOurTheme(() => import('../features/rules/ChainsView.vue')),
        },
        {
          path: 'rules/:id',
          name: 'rule',
          component: inOurTheme(() => import('../features/rules/RuleSheet.vue')),
        },
        {
          path: 'connections',
          name: 'connections',
          component: inOurTheme(() => import('../features/connections/ConnectionsView.vue')),
        },
        {
          path: 'connections/new',
          name: 'connect',
          component: inOurTheme(() => import('../features/connecting/ConnectView.vue')),
        },
        {
          path: 'connections/:id/settings',
          name: 'connection',
          component: inOurTheme(() => import('../features/connecting/SettingsView.vue')),
        },
        {
          path: 'journal',
          name: 'journal',
          component: inOurTheme(() => import('../features/journal/JournalView.vue')),
        },
        {
          path: 'categories',
          name: 'categories',
          component: inOurTheme(() => import('../features/categories/CategoriesView.vue')),
        },
        {
          path: 'team',
          name: 'team',
          component: inOurTheme(() => import('../features/team/TeamView.vue')),
        },
        {
          path: 'team/sharing',
          name: 'sharing',
          component: inOurTheme(() => import('../features/sharing/SharingView.vue')),
        },
        {
          path: 'lists/:id',
          name: 'list',
          component: inOurTheme(() => import('../features/sharing/ListView.vue')),
        },
        {
          path: 'team/requests',
          name: 'requests',
          component: inOurTheme(() => import('../features/team/RequestsView.vue')),
        },
        {
          path: 'team/activity',
          name: 'activity',
          component: inOurTheme(() => import('../features/team/ActivityView.vue')),
        },
        {
          path: 'team/new',
          name: 'new-workspace',
          component: inOurTheme(() => import('../features/team/NewWorkspace.vue')),
        },
        { path: 'me', name: 'me', component: inOurTheme(() => import('../features/me/MySettings.vue')) },
        { path: ':rest(.*)*', component: () => import('../ui/NotHere.vue') },
      ],
    },
  ],
})

router.beforeEach(async (to, from) => {
  const session = useSession()
  // A person who is still signed in skips the sign-in page.
  if (to.name === 'sign-in' && from === START_LOCATION && !to.redirectedFrom) {
    const isKnown = await session.restore().catch(() => false)
    return isKnown && !session.person?.owes ? { name: 'cloth' } : true
  }
  const isIn = to.meta.open || session.person !== null || (await session.restore())
  if (isIn && (to.meta.open || !session.person?.owes || session.expired)) return true
  return { name: 'sign-in', query: to.fullPath === '/' ? {} : { to: to.fullPath } }
})

const TITLES: Record<string, string> = {
  cloth: 'Cloth',
  rules: 'Rules',
  rule: 'Rule',
  conflicts: 'Conflicts',
  brake: 'Brake',
  chains: 'Chains',
  connections: 'Connections',
  connect: 'Connect a service',
  connection: 'Connection',
  journal: 'Journal',
  day: 'Day',
  time: 'Time report',
  categories: 'Categories',
  me: 'My settings',
  team: 'Team',
  sharing: 'Who sees what',
  list: 'A list',
  requests: 'Requests',
  activity: 'Activity',
  'new-workspace': 'New workspace',
  begin: 'Begin',
  guest: 'Shared days',
  times: 'Choose a time',
  booked: 'Your time',
  join: 'Invitation',
  forgot: 'New password',
  'new-password': 'New password',
  'sign-in': 'Sign in',
}
router.afterEach(to => {
  const title = TITLES[String(to.name)]
  document.title = title ? `${title} · Amber Loom` : 'Amber Loom'
})
