/* Moves of gains, and those that calm a loop by the margins that a plant leaves it. */
#include "diagnosis_moves.h"

#include <glib.h>
#include <math.h>

#define OFF   (4.0 / 3.0)
#define ALIKE 1.15 /* of sensitivities */

rgp_pid_gains rgp_moved(const rgp_pid_gains *gains, uint32_t move, double by)
{
    static const int of[RGP_MOVES][3] = {
#define RGP_MOVE(name, kp, ki, kd) {kp, ki, kd},
        RGP_MOVE_LIST(RGP_MOVE)
#undef RGP_MOVE
    };
    rgp_pid_gains other = *gains;
    other.kp *= (float)pow(by, of[move][0]);
    other.ki *= (float)pow(by, of[move][1]);
    other.kd *= (float)pow(by, of[move][2]);
    return other;
}

double rgp_worst_sensitivity(const rgp_stand *on, const rgp_pid_gains *g, double most)
{
    rgp_stand other[3] = {*on, *on, *on};
    double worst = 0.0;
    other[1].plant.gain *= OFF;
    other[2].plant.dead *= OFF;
    for (size_t i = 0; i < G_N_ELEMENTS(other) && worst <= most; i++) {
        const rgp_margins m = rgp_stand_margins(&other[i], g);
        worst = fmax(worst, m.stable ? m.sensitivity : INFINITY);
    }
    return worst <= most ? worst : INFINITY;
}

typedef struct calm {
    rgp_pid_gains gain;
    double sensitivity; /* the worst; INFINITY: it swings */
} calm;

/* Of those that are as calm as the calmest the one with the greatest integral, or without any with the most P: what is
 * left of a load is 1 / ki (Astrom and Hagglund 2006). */
static const calm *best_of(const calm *one, uint32_t count, double least)
{
    const calm *best = NULL;
    for (uint32_t i = 0; i < count; i++) {
        const rgp_pid_gains *g = &one[i].gain;
        const bool stronger = !best || g->ki > best->gain.ki || (g->ki == best->gain.ki && g->kp > best->gain.kp);
        best = one[i].sensitivity <= ALIKE * least && stronger ? &one[i] : best;
    }
    return best;
}

/* Only a single gain may be so far off that a quarter of it is left. */
bool rgp_calmed(const rgp_stand *on, const rgp_pid_gains *now, unsigned moves, rgp_pid_gains *calmed)
{
    static const struct {
        double by;
        unsigned among;
    } steps[] = {{1.4, ANY}, {2.0, ANY}, {4.0, I_LESS | D_LESS}};
    double least = INFINITY;
    for (size_t k = 0; k < G_N_ELEMENTS(steps) && least > RGP_CALM; k++) {
        calm one[RGP_MOVES];
        uint32_t count = 0;
        double of_step = INFINITY;
        for (uint32_t move = 0; move < RGP_MOVES; move++) {
            const rgp_pid_gains other = rgp_moved(now, move, steps[k].by);
            if ((moves & steps[k].among) >> move & 1u && rgp_is_moved(&other, now)) {
                one[count] = (calm){other, rgp_worst_sensitivity(on, &other, ALIKE * fmin(least, of_step))};
                of_step = fmin(of_step, one[count++].sensitivity);
            }
        }
        if (of_step < least) {
            least = of_step;
            *calmed = best_of(one, count, least)->gain;
        }
    }
    return isfinite(least);
}
