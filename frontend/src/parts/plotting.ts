// What of the plotting package is used: the rest is left out of the script.
export { axisX, axisY, dot, frame, line, link, plot, rectY, ruleX, ruleY, text } from '@observablehq/plot'
