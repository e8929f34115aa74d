import { createTheme, type Theme } from '@mui/material/styles'
import { SHEETS } from '../plot/sheet'
import type { SheetName } from '../store/interface-slice'

/** MUI in the hand of the survey sheet: flat, square, no ripple, no shadow. */
export function makeTheme(name: SheetName): Theme {
  const sheet = SHEETS[name]
  return createTheme({
    palette: {
      mode: name === 'night' ? 'dark' : 'light',
      primary: { main: sheet.accent, contrastText: sheet.onAccent },
      warning: { main: sheet.warning },
      background: { default: sheet.paper, paper: sheet.card },
      text: { primary: sheet.ink, secondary: sheet.inkSoft },
      divider: sheet.line,
    },
    typography: {
      fontFamily: '"Source Sans 3", sans-serif',
      fontSize: 14,
      button: { textTransform: 'none' },
    },
    shape: { borderRadius: 0 },
    components: {
      MuiButtonBase: { defaultProps: { disableRipple: true } },
      MuiButton: { defaultProps: { color: 'inherit', disableElevation: true } },
      MuiToggleButton: {
        styleOverrides: {
          root: {
            padding: '1px 7px',
            color: sheet.ink,
            borderColor: sheet.lineStrong,
            '&.Mui-selected, &.Mui-selected:hover': {
              color: sheet.onAccent,
              backgroundColor: sheet.accent,
            },
          },
        },
      },
      MuiCheckbox: { styleOverrides: { root: { padding: 2, color: sheet.inkSoft } } },
      MuiPaper: {
        styleOverrides: {
          root: {
            backgroundImage: 'none',
            border: `1px solid ${sheet.lineStrong}`,
            boxShadow: 'none',
          },
        },
      },
    },
  })
}
