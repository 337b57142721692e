/* Keys that mark: moments while the rig runs; moments and stretches of a recording, at the place that is shown. */
#include "watch.h"

#include <math.h>
#include <string.h>

#define NEAR_SHARE 100.0 /* of what the chart shows: a mark so near is meant */

static double time_here(const watching *w)
{
    return view_time(&w->view, w->view.row);
}

/* False when a rig runs, where marks can only be put, at the newest tick; that has been said. */
static bool may_change(watching *w)
{
    if (!w->door->ending) {
        watch_say(w, "stretches, and marks that are there, are a recording's: rigpulse watch --from NAME");
    }
    return w->door->ending != NULL;
}

static bool change(watching *w, const rgp_mark_change *to)
{
    g_autoptr(GError) error = NULL;
    const bool changed = rgp_door_remark(w->door, to, &error);
    if (!changed) {
        watch_say(w, "%s", error->message);
    }
    return changed;
}

/* ---- putting --------------------------------------------------------------------------------------- */

static bool put(watching *w, const char *name, double from, double until)
{
    const rgp_mark_change to = {RGP_MARK_PUT, 0, name, from, until};
    const bool is = change(w, &to);
    if (is && until > from) {
        watch_say(w, "stretch '%s', from %.3f to %.3f s", name, from, until);
    } else if (is) {
        watch_say(w, "mark '%s' at %.3f s", name, from);
    }
    return is;
}

static bool take_mark(void *self, const char *answer)
{
    watching *w = self;
    if (!*answer) {
        return true;
    }
    if (w->door->ending) {
        return put(w, answer, time_here(w), time_here(w));
    }
    rgp_door_look_away(w->door);
    rgp_door_mark(w->door, answer);
    w->view.history = rgp_door_look(w->door);
    watch_say(w, "mark '%s'", answer);
    return true;
}

void watch_ask_mark(watching *w)
{
    if (w->door->ending || watch_may(w, RGP_COMMANDS)) {
        watch_ask(w, take_mark, 0, "a word for the mark");
    }
}

static bool take_stretch(void *self, const char *answer)
{
    watching *w = self;
    const double here = time_here(w);
    if (*answer && !put(w, answer, fmin(w->begun, here), fmax(w->begun, here))) {
        return false;
    }
    w->begins = false;
    return true;
}

void watch_mark_stretch(watching *w)
{
    if (!may_change(w)) {
        return;
    }
    if (!w->begins) {
        w->begins = true;
        w->begun = time_here(w);
        watch_say(w, "a stretch begins at %.3f s: go to its other end, and M again", w->begun);
    } else if (w->begun == time_here(w)) {
        w->begins = false;
        watch_say(w, "no stretch begins here any more");
    } else {
        watch_ask(w, take_stretch, 0, "a name for the stretch from %.3f to %.3f s", fmin(w->begun, time_here(w)),
                  fmax(w->begun, time_here(w)));
    }
}

/* ---- changing -------------------------------------------------------------------------------------- */

/* The mark, or the end of a stretch, that is nearest to what is shown. */
typedef struct found {
    const rgp_occurrence *is; /* NULL: none is near */
    guint which;
    bool end;
} found;

static found find_here(watching *w)
{
    g_autoptr(GPtrArray) marks = rgp_marks_of(w->view.history);
    found f = {0};
    double nearest = w->view.span / NEAR_SHARE;
    for (guint i = 0; i < marks->len; i++) {
        const rgp_occurrence *o = marks->pdata[i];
        const double begin = fabs(o->time - time_here(w)), end = fabs(o->until - time_here(w));
        if (fmin(begin, end) <= nearest) {
            nearest = fmin(begin, end);
            f = (found){o, i, end < begin};
        }
    }
    if (!f.is) {
        watch_say(w, "there is no mark here; n and p go to the next one and the one before");
    }
    return f;
}

static bool take_name(void *self, const char *answer)
{
    watching *w = self;
    const rgp_mark_change to = {RGP_MARK_NAME, w->prompt.which, answer, 0.0, 0.0};
    if (*answer && !change(w, &to)) {
        return false;
    }
    if (*answer) {
        watch_say(w, "it is '%s' now", answer);
    }
    return true;
}

void watch_name_mark(watching *w)
{
    const found f = may_change(w) ? find_here(w) : (found){0};
    if (f.is) {
        watch_ask(w, take_name, f.which, "another name for '%s'", f.is->of);
    }
}

/* Moves the picked mark to the cursor. A list of marks that has changed meanwhile may hold it no longer. */
static void put_down(watching *w)
{
    g_autoptr(GPtrArray) marks = rgp_marks_of(w->view.history);
    const rgp_occurrence *is = w->picked - 1 < marks->len ? marks->pdata[w->picked - 1] : NULL;
    const double here = time_here(w);
    if (is) {
        const double other = is->until > is->time ? (w->picked_end ? is->time : is->until) : here;
        const rgp_mark_change to = {RGP_MARK_MOVE, w->picked - 1, NULL, fmin(here, other), fmax(here, other)};
        g_autofree char *name = g_strdup(is->of);
        if (change(w, &to)) {
            watch_say(w, "'%s' is at %.3f s now", name, here);
        }
    }
    w->picked = 0;
}

void watch_move_mark(watching *w)
{
    if (!may_change(w)) {
        return;
    }
    if (w->picked) {
        put_down(w);
        return;
    }
    const found f = find_here(w);
    if (f.is) {
        w->picked = f.which + 1;
        w->picked_end = f.end;
        watch_say(w, "%s'%s' is picked: go where it belongs, and t again",
                  f.is->until == f.is->time ? ""
                  : f.end                   ? "the end of "
                                            : "the beginning of ",
                  f.is->of);
    }
}

void watch_take_out_mark(watching *w)
{
    const found f = may_change(w) ? find_here(w) : (found){0};
    if (f.is) {
        const rgp_mark_change to = {.what = RGP_MARK_REMOVE, .which = f.which};
        g_autofree char *name = g_strdup(f.is->of);
        w->picked = 0;
        if (change(w, &to)) {
            watch_say(w, "'%s' is taken out", name);
        }
    }
}
