/* The hook-ups: what the channels are connected to, held against the lists of what there is on their ports. Four sorts
 * of lines:
 *
 *   KIND NAME: settings, INPUT by ACTUATOR               a mechanism, or a device on a wire
 *   SENSOR VERB ...: settings                            what a sensor reads
 *   ACTUATOR VERB "TEXT" to DEVICE: settings             what an actuator is driven by, where its device has a wire
 *   at TIME WHOM DISTURBANCE [AMOUNT] [for TIME]         something that happens to it */
#include "hookup.h"

#include <string.h>

static void parse_line(cursor *p, hookup *h)
{
    const token *first = cursor_now(p);
    if (token_is_word(first, "at")) {
        if (!h->catalog->clock) {
            cursor_fail(p, first->at, "write it in a 'hookup sim'", "nothing can be made to happen on the port '%s'",
                        h->catalog->port);
        }
        hookup_parse_disturbance(p, h);
        return;
    }
    for (uint32_t i = 0; h->catalog->mechanism[i]; i++) {
        if (token_is_word(first, h->catalog->mechanism[i]->word)) {
            hookup_parse_mechanism(p, h, h->catalog->mechanism[i]);
            return;
        }
    }
    const symbol *named = first->kind == TOKEN_WORD ? tree_find(p->tree, first->text) : NULL;
    if (h->catalog->actuator && named && named->kind == SYMBOL_ACTUATOR) {
        hookup_parse_actuator(p, h);
    } else {
        hookup_parse_sensor(p, h);
    }
}

static void read_line(hookup *h, token *first)
{
    cursor p = {.tree = h->t, .at = first};
    cursor_bound(&p, first->indent);
    if (setjmp(p.recover) == 0) {
        parse_line(&p, h);
    }
}

static rgp_hookup read_hookup(tree *t, const rgp_catalog *catalog, const hookup_text *is)
{
    hookup h = {.t = t, .catalog = catalog, .tried = arena_get(t->arena, t->symbols + 1u)};
    for (unsigned i = 0; i < is->lines; i++) {
        read_line(&h, is->line[i]);
    }
    return (rgp_hookup){.port = is->port->text,
                        .catalog = catalog,
                        .line = report_line(t->report, is->port->at.start),
                        .mechanism = h.mechanism,
                        .sensor = h.sensor,
                        .actuator = h.actuator,
                        .disturbance = h.disturbance,
                        .mechanisms = h.mechanisms,
                        .sensors = h.sensors,
                        .actuators = h.actuators,
                        .disturbances = h.disturbances};
}

static const char *port_name(void *self, uint32_t i)
{
    const rgp_catalog *catalog = self;
    while (i-- > 0) {
        catalog = catalog->next;
    }
    return catalog->port;
}

/* NULL when there is none of that name, which has been reported. */
static const rgp_catalog *find_port(const tree *t, const rgp_catalog *catalogs, const token *port)
{
    uint32_t ports = 0;
    for (const rgp_catalog *c = catalogs; c; c = c->next, ports++) {
        if (strcmp(port->text, c->port) == 0) {
            return c;
        }
    }
    report_error(t->report, port->at, report_choose(t->report, port->text, port_name, (void *)catalogs, ports),
                 "there is no port '%s'", port->text);
    return NULL;
}

static bool is_second(const tree *t, unsigned which)
{
    for (unsigned i = 0; i < which; i++) {
        if (strcmp(t->hookup[i].port->text, t->hookup[which].port->text) == 0) {
            report_error(t->report, t->hookup[which].port->at,
                         arena_print(t->arena, "it is on line %u", report_line(t->report, t->hookup[i].port->at.start)),
                         "there is a hook-up to '%s' already", t->hookup[which].port->text);
            return true;
        }
    }
    return false;
}

/* Of one to a port that there is not, the lines are left unread. */
void lang_read_hookups(tree *t, const rgp_catalog *catalogs, rgp_hookup *made)
{
    for (unsigned i = 0; i < t->hookups; i++) {
        const hookup_text *is = &t->hookup[i];
        const rgp_catalog *catalog = is_second(t, i) ? NULL : find_port(t, catalogs, is->port);
        made[i] = (rgp_hookup){.port = is->port->text};
        if (catalog) {
            made[i] = read_hookup(t, catalog, is);
        }
    }
}
