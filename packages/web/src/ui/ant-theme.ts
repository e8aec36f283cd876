import { theme } from 'ant-design-vue'
import type { ThemeConfig } from 'ant-design-vue/es/config-provider/context'
import { computed } from 'vue'
import { themeName } from './theme.ts'

const COLOURS = {
  linen: {
    primary: '#A25407',
    surface: '#FFFDF9',
    page: '#F7F2E8',
    line: '#EADFCC',
    ink: '#2B211A',
    second: '#6B5D50',
    wrong: '#A43E2A',
    good: '#4E6B35',
  },
  peat: {
    primary: '#F0A94C',
    surface: '#262019',
    page: '#1D1712',
    line: '#43382D',
    ink: '#F3EADC',
    second: '#B9AB9B',
    wrong: '#F08E78',
    good: '#A5C585',
  },
}

/** Ant Design Vue with our tokens: none of its own blue or rounding is left. */
export const antTheme = computed((): ThemeConfig => {
  const c = COLOURS[themeName.value]
  return {
    algorithm: themeName.value === 'peat' ? theme.darkAlgorithm : theme.defaultAlgorithm,
    token: {
      colorPrimary: c.primary,
      colorInfo: c.primary,
      colorLink: c.primary,
      colorError: c.wrong,
      colorWarning: c.primary,
      colorSuccess: c.good,
      colorText: c.ink,
      colorTextSecondary: c.second,
      colorTextDescription: c.second,
      colorTextPlaceholder: c.second,
      colorTextDisabled: themeName.value === 'peat' ? '#94877A' : '#857868',
      colorBgContainer: c.surface,
      colorBgElevated: c.surface,
      colorBgLayout: c.page,
      colorBorder: themeName.value === 'peat' ? '#5A4C3E' : '#D8C9B0',
      colorBorderSecondary: c.line,
      colorTextLightSolid: themeName.value === 'peat' ? '#1D1712' : '#FFFDF9',
      borderRadius: 3,
      borderRadiusLG: 3,
      borderRadiusSM: 3,
      borderRadiusXS: 2,
      controlHeight: 32,
      fontFamily: `'Loom Figures', 'Atkinson Hyperlegible Next Variable', sans-serif`,
      fontSize: 14,
      wireframe: true,
      controlItemBgActive: themeName.value === 'peat' ? '#4A3A22' : '#FBE9CE',
      controlItemBgHover: themeName.value === 'peat' ? '#352B20' : '#F7F2E8',
      boxShadow: 'none',
    },
  }
})
