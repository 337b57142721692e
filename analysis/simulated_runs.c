/* Many simulated runs, on all cores: a pool of threads, each with its own rig and its own simulated port. */
#include "simulated_runs.h"

#include "runtime/door.h"
#include "runtime/interrupt.h"
#include "runtime/ports.h"

#include <stdatomic.h>
#include <string.h>

#define LOOK_US 100000

typedef struct running {
    void (*take)(void *self, rgp_history *history);
    atomic_bool stop;
    atomic_uint done;
    GMutex lock; /* of the first thing that went wrong */
    GError *error;
} running;

/* Not of what a mechanism is like, but of where it begins, and of which day it is. */
static bool is_beginning(const char *word)
{
    return strcmp(word, "start") == 0 || strcmp(word, "day") == 0;
}

static void vary_mechanism(rgp_mechanism_item *m, double off, GRand *chance)
{
    for (uint32_t i = 0; i < RGP_KIND_SETTINGS_MAX && m->kind->setting[i].word; i++) {
        const rgp_setting *is = &m->kind->setting[i];
        const double drawn = 1.0 + off * g_rand_double_range(chance, -1.0, 1.0);
        if (is->unit && !is_beginning(is->word) && !m->text[i]) {
            m->value[i] = CLAMP(m->value[i] * drawn, is->low, is->high);
        }
    }
}

/* The hook-up's mechanisms, each a little other; *hookup and what is returned are to outlive the run. */
static rgp_mechanism_item *vary_mechanisms(rgp_rig *rig, rgp_hookup *hookup, double off, uint64_t seed)
{
    GRand *chance = g_rand_new_with_seed((guint32)(seed * 2654435761u));
    *hookup = *rig->hookup;
    rgp_mechanism_item *m = g_memdup2(hookup->mechanism, hookup->mechanisms * sizeof *m);
    for (uint32_t i = 0; i < hookup->mechanisms; i++) {
        vary_mechanism(&m[i], off, chance);
    }
    g_rand_free(chance);
    hookup->mechanism = m;
    rig->hookup = hookup;
    return m;
}

static void run_to_the_end(const rgp_run_ask *ask, running *r, GError **error)
{
    rgp_rig *rig = rgp_rig_compile(ask->path, ask->text, strlen(ask->text), rgp_ports_catalog());
    if (!rig || !rig->image) {
        g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_INVAL, "%s", rig ? rgp_rig_report(rig) : "memory has run out");
        rgp_rig_free(rig);
        return;
    }
    rgp_hookup other;
    g_autofree rgp_mechanism_item *varied =
        ask->off > 0.0 && rig->hookup ? vary_mechanisms(rig, &other, ask->off, ask->seed) : NULL;
    const rgp_door_setup setup = {.rig = rig,
                                  .seed = ask->seed,
                                  .length_us = ask->length_us,
                                  .fast = true,
                                  .stepped = true,
                                  .history = true,
                                  .set = ask->set};
    rgp_door *door = rgp_door_open(&setup, error);
    if (door) {
        rgp_door_advance(door, ask->length_us);
        if (r->take && !interrupt_asked() && !atomic_load(&r->stop)) { /* else it may be cut off */
            r->take(ask->self, rgp_door_look(door));
            rgp_door_look_away(door);
        }
        rgp_door_end(door, NULL);
    }
    rgp_rig_free(rig);
}

static void run_one(gpointer ask, gpointer self)
{
    running *r = self;
    g_autoptr(GError) error = NULL;
    if (!atomic_load(&r->stop)) {
        run_to_the_end(ask, r, &error);
        atomic_fetch_add(&r->done, 1);
    }
    if (error) {
        g_mutex_lock(&r->lock);
        if (!r->error) {
            r->error = g_steal_pointer(&error);
        }
        g_mutex_unlock(&r->lock);
        atomic_store(&r->stop, true);
    }
}

bool rgp_simulated_runs(const rgp_run_ask *ask, uint32_t runs, void (*take)(void *self, rgp_history *history),
                        bool (*progress)(void *self, uint32_t done), void *self, GError **error)
{
    running r = {.take = take};
    g_mutex_init(&r.lock);
    GThreadPool *pool = g_thread_pool_new(run_one, &r, (gint)g_get_num_processors(), TRUE, error);
    if (!pool) {
        return false;
    }
    for (uint32_t i = 0; i < runs; i++) {
        g_thread_pool_push(pool, (gpointer)&ask[i], NULL);
    }
    while (atomic_load(&r.done) < runs && !atomic_load(&r.stop)) {
        g_usleep(LOOK_US / 10);
        if (progress && !progress(self, atomic_load(&r.done))) {
            atomic_store(&r.stop, true);
        }
    }
    g_thread_pool_free(pool, FALSE, TRUE);
    g_mutex_clear(&r.lock);
    if (r.error) {
        g_propagate_error(error, r.error);
        return false;
    }
    return true;
}
