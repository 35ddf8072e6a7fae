import type { LedgerView, QuietView, SittingView, SurveyView, SweepView } from "./views";

/**
 * A view on its way to the browser: one string of JSON, which is read there once. As objects a thousand things would be taken apart
 * and put together by the page's own protocol, one by one.
 */
export type Told<View> = string & { readonly of?: View };

const tell = <View>(view: View): Told<View> => JSON.stringify(view);
const from = <View>(told: Told<View>): View => JSON.parse(told) as View;

export const [tellSurvey, surveyFrom] = [tell<SurveyView>, from<SurveyView>];
export const [tellQuiet, quietFrom] = [tell<QuietView>, from<QuietView>];
export const [tellSitting, sittingFrom] = [tell<SittingView>, from<SittingView>];
export const [tellSweep, sweepFrom] = [tell<SweepView>, from<SweepView>];
export const [tellLedger, ledgerFrom] = [tell<LedgerView>, from<LedgerView>];
