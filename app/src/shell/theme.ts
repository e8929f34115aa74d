import { createTheme, type Theme } from '@mui/material/styles'
import type { CSSProperties } from 'react'
import { CheckedMark, OpenMark, RadioMark, RadioOpenMark } from '../controls/marks'
import { SHEETS, type SheetName } from '../plot/inks'

const FIGURES = '"Source Code Pro", monospace'
const ROW_HEIGHT = 26

/** MUI in the hand of the survey sheet: flat, square, hairlines, no ripple, no shadow, no capitals. */
export function makeTheme(name: SheetName): Theme {
  const sheet = SHEETS[name]
  const hairline = `1px solid ${sheet.line}`
  const strongLine = `1px solid ${sheet.lineStrong}`
  const focus = { outline: `2px solid ${sheet.accent}`, outlineOffset: 1 }
  return createTheme({
    palette: {
      mode: name === 'night' ? 'dark' : 'light',
      primary: { main: sheet.accent, contrastText: sheet.onAccent },
      warning: { main: sheet.warning },
      background: { default: sheet.paper, paper: sheet.card },
      text: { primary: sheet.ink, secondary: sheet.inkSoft, disabled: sheet.inkSoft },
      divider: sheet.line,
      action: { hover: sheet.paperDeep, selected: sheet.paperDeep, disabledOpacity: 0.7 },
    },
    typography: {
      fontFamily: '"Source Sans 3", sans-serif',
      fontSize: 14,
      button: { textTransform: 'none', fontWeight: 400, lineHeight: 1.4 },
      body1: { fontSize: 14, lineHeight: 1.4 },
      body2: { fontSize: 13, lineHeight: 1.4 },
      caption: { fontSize: 12.5, lineHeight: 1.35 },
      h1: { fontFamily: '"Source Serif 4", serif', fontWeight: 600, fontSize: 38 },
      h2: { fontSize: 15, fontWeight: 600, lineHeight: 1.4 },
      h3: { fontSize: 14, fontWeight: 600, lineHeight: 1.4 },
      figure: { fontFamily: FIGURES, fontSize: 12.5, fontVariantNumeric: 'tabular-nums' },
    },
    shape: { borderRadius: 0 },
    transitions: { create: () => 'none' },
    components: {
      MuiButtonBase: {
        defaultProps: { disableRipple: true, disableTouchRipple: true },
        styleOverrides: { root: { font: 'inherit', '&.Mui-focusVisible': focus } },
      },
      MuiButton: {
        defaultProps: {
          color: 'inherit',
          disableElevation: true,
          size: 'small',
          variant: 'outlined',
        },
        styleOverrides: {
          root: {
            minWidth: 0,
            minHeight: ROW_HEIGHT,
            padding: '1px 9px',
            fontSize: 14,
            whiteSpace: 'nowrap',
            borderColor: sheet.lineStrong,
            '&:hover': { backgroundColor: sheet.paperDeep, borderColor: sheet.lineStrong },
            '&.Mui-disabled': { color: sheet.inkSoft, borderColor: sheet.line },
          },
          text: { color: sheet.accent, padding: '1px 5px' },
          contained: {
            backgroundColor: sheet.accent,
            color: sheet.onAccent,
            border: `1px solid ${sheet.accent}`,
            '&:hover': { backgroundColor: sheet.ink, color: sheet.paper, borderColor: sheet.ink },
            '&.Mui-disabled': { backgroundColor: 'transparent' },
          },
          startIcon: { marginLeft: -3, marginRight: 4, '& > *:nth-of-type(1)': { fontSize: 17 } },
        },
      },
      MuiIconButton: {
        defaultProps: { size: 'small', color: 'inherit' },
        styleOverrides: {
          root: {
            borderRadius: 0,
            padding: 3,
            '&:hover': { backgroundColor: sheet.paperDeep },
            '& svg': { fontSize: 19 },
          },
        },
      },
      MuiToggleButton: {
        defaultProps: { size: 'small' },
        styleOverrides: {
          root: {
            minHeight: ROW_HEIGHT,
            padding: '0 8px',
            fontSize: 14,
            color: sheet.ink,
            borderColor: sheet.lineStrong,
            '&:hover': { backgroundColor: sheet.paperDeep },
            '&.Mui-disabled': { color: sheet.inkSoft, borderColor: sheet.line },
            '&.Mui-selected, &.Mui-selected:hover': {
              color: sheet.onAccent,
              backgroundColor: sheet.accent,
              borderColor: sheet.accent,
            },
          },
        },
      },
      MuiToggleButtonGroup: {
        defaultProps: { size: 'small' },
        styleOverrides: { root: { flexWrap: 'wrap' } },
      },
      MuiCheckbox: {
        defaultProps: { size: 'small', icon: OpenMark, checkedIcon: CheckedMark },
        styleOverrides: { root: { padding: 3, color: sheet.inkSoft } },
      },
      MuiRadio: {
        defaultProps: { size: 'small', icon: RadioOpenMark, checkedIcon: RadioMark },
        styleOverrides: { root: { padding: 3, color: sheet.inkSoft } },
      },
      MuiFormControlLabel: {
        styleOverrides: {
          root: { marginLeft: 0, marginRight: 0, gap: 3 },
          label: { fontSize: 14 },
        },
      },
      MuiOutlinedInput: {
        defaultProps: { size: 'small' },
        styleOverrides: {
          root: {
            minHeight: ROW_HEIGHT,
            paddingRight: 6,
            backgroundColor: sheet.card,
            fontSize: 14,
            '&:hover .MuiOutlinedInput-notchedOutline': { borderColor: sheet.ink },
            '&.Mui-disabled .MuiOutlinedInput-notchedOutline': { borderColor: sheet.line },
          },
          notchedOutline: { borderColor: sheet.lineStrong },
          input: { padding: '2px 0 2px 6px', height: 20 },
        },
      },
      MuiInputAdornment: {
        styleOverrides: { root: { marginLeft: 4, '& p': { color: sheet.inkSoft, fontSize: 13 } } },
      },
      MuiNativeSelect: {
        styleOverrides: {
          select: {
            '&&': {
              paddingRight: 20,
              minWidth: 0,
              width: 'max-content',
              maxWidth: '100%',
              height: 20,
            },
          },
          icon: { right: 1, color: sheet.inkSoft },
        },
      },
      MuiSlider: {
        defaultProps: { size: 'small' },
        styleOverrides: {
          root: { borderRadius: 0, height: 1, padding: '8px 0', color: sheet.ink },
          rail: { backgroundColor: sheet.lineStrong, opacity: 1, height: 1 },
          track: { display: 'none' },
          thumb: {
            width: 5,
            height: 13,
            borderRadius: 0,
            backgroundColor: sheet.ink,
            '&::before': { display: 'none' },
            '&::after': { width: 13, height: 15 },
            '&:hover, &.Mui-active': { boxShadow: 'none' },
            '&.Mui-focusVisible': { boxShadow: 'none', ...focus },
          },
        },
      },
      MuiTabs: {
        styleOverrides: {
          root: { minHeight: 30, borderBottom: hairline },
          indicator: { height: 3, backgroundColor: sheet.accent },
        },
      },
      MuiTab: {
        styleOverrides: {
          root: {
            minHeight: 30,
            minWidth: 0,
            padding: '4px 8px',
            fontSize: 14,
            color: sheet.ink,
            '&.Mui-selected': { color: sheet.ink, fontWeight: 600 },
          },
        },
      },
      MuiTableCell: {
        defaultProps: { size: 'small' },
        styleOverrides: {
          root: { padding: '3px 8px 3px 0', borderBottom: hairline, fontSize: 14, lineHeight: 1.4 },
          head: { color: sheet.inkSoft, fontSize: 13, fontWeight: 400 },
        },
      },
      MuiTooltip: {
        defaultProps: { enterDelay: 500, disableInteractive: true, describeChild: true },
        styleOverrides: {
          tooltip: { backgroundColor: sheet.ink, color: sheet.paper, fontSize: 13, maxWidth: 280 },
        },
      },
      MuiPaper: {
        styleOverrides: {
          root: { backgroundImage: 'none', border: strongLine, boxShadow: 'none' },
        },
      },
      MuiMenuItem: { defaultProps: { dense: true }, styleOverrides: { root: { minHeight: 28 } } },
      MuiDialogTitle: {
        styleOverrides: { root: { fontSize: 17, fontWeight: 600, padding: '16px 20px 6px' } },
      },
      MuiDialogContent: { styleOverrides: { root: { padding: '6px 20px 14px' } } },
      MuiDialogActions: { styleOverrides: { root: { padding: '8px 20px 16px' } } },
      MuiAlert: {
        defaultProps: { icon: false },
        styleOverrides: {
          root: {
            padding: '2px 14px',
            color: sheet.ink,
            backgroundColor: sheet.card,
            border: strongLine,
            alignItems: 'center',
            '&.MuiAlert-colorWarning': { border: `1px solid ${sheet.warning}`, borderLeftWidth: 6 },
          },
          message: { padding: '3px 0' },
          action: { padding: 0, alignItems: 'center', gap: 6 },
        },
      },
      MuiLinearProgress: {
        styleOverrides: {
          root: { height: 6, backgroundColor: sheet.line },
          // A bar that glides is painted all the time where there is no graphics card, with all around it.
          bar: { backgroundColor: sheet.accent, transition: 'none' },
        },
      },
      MuiAccordion: {
        defaultProps: { disableGutters: true, square: true, elevation: 0 },
        styleOverrides: {
          root: { border: 0, background: 'none', '&::before': { display: 'none' } },
        },
      },
      MuiLink: { defaultProps: { color: 'primary' } },
      MuiTypography: {
        defaultProps: { variantMapping: { figure: 'span' } },
      },
    },
  })
}

declare module '@mui/material/Typography' {
  interface TypographyPropsVariantOverrides {
    /** Figures: monospaced, of one width. */
    figure: true
  }
}

declare module '@mui/material/styles' {
  interface TypographyVariants {
    figure: CSSProperties
  }
  interface TypographyVariantsOptions {
    figure?: CSSProperties
  }
}
