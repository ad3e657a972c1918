/* The same body on boxes alone, in plain C: what the simulation's speed is measured against.
 *
 * One axis-parallel box body, axis-parallel boxes grown by it, gravity down: exact segments of constant acceleration,
 * contacts at the roots of the parabola, slide along what is hit, run, jump with coyote time and buffer, terminal speed.
 * Reads the level and the controls from a binary file, runs them, and prints seconds and where the body ended.
 *
 *   boxes INPUT REPEATS
 */
#include <math.h>
#include <stdint.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>

enum { LEFT = 1, RIGHT = 2, JUMP = 16, SPRINT = 32 };
enum { NONE = -1, MOST_SEGMENTS = 32, MOST_CONTACTS = 4 };

typedef struct { double x0, y0, x1, y1; } Box;
typedef struct {
    double dt, x, y, gravity, walk, sprint, ground_accel, ground_brake, air_accel, air_brake;
    double jump_speed, coyote, buffer, cut, terminal, lost_below;
    double grid_x, grid_y, grid_size;
    int64_t columns, rows, boxes, items, ticks;
} Header;
typedef struct { int64_t box; int nx, ny; } Contact;
typedef struct { double x, y, vx, vy; int64_t support; int grounded; } Row;

static Header h;
static Box *boxes;
static int64_t *start, *items;
static uint8_t *held;
static Row *track;

static double falls_at(double gap, double speed, double accel) {
    if (accel < 0) {
        double square = speed * speed - 2 * accel * gap, root;
        if (square < 0) return INFINITY;
        root = sqrt(square);
        if (speed > 0) return -(speed + root) / accel;
        return root - speed == 0 ? 0 : 2 * gap / (root - speed);
    }
    if (speed >= 0) return INFINITY;
    double square = speed * speed - 2 * accel * gap;
    return square < 0 ? INFINITY : 2 * gap / (sqrt(square) - speed);
}

static double approach(double speed, double target, double accel, double brake, double *goal, double *end) {
    double rate;
    *goal = target;
    *end = INFINITY;
    if (fabs(speed - target) <= 1e-12 * h.sprint) return 0;
    if (target * speed < 0 || fabs(speed) > fabs(target)) {
        if (target * speed <= 0) *goal = 0;
        rate = speed > 0 ? -brake : brake;
    } else rate = target > 0 ? accel : -accel;
    if (rate != 0) *end = (*goal - speed) / rate;
    return rate;
}

static int floor_cell(double value, double origin, int64_t most) {
    double cell = floor((value - origin) / h.grid_size);
    return cell < 0 ? 0 : cell > most - 1 ? (int)most - 1 : (int)cell;
}

static void span(double x, double v, double a, double t, double *low, double *high) {
    double end = x + t * (v + 0.5 * a * t);
    *low = fmin(x, end);
    *high = fmax(x, end);
    if (a != 0) {
        double turn = -v / a;
        if (turn > 0 && turn < t) {
            double extreme = x + 0.5 * v * turn;
            *low = fmin(*low, extreme);
            *high = fmax(*high, extreme);
        }
    }
}

static double closes_at(double gap, double speed, double accel) {
    if (gap >= -1e-5 && gap <= 1e-8 && speed <= 1e-9) {
        if (speed < -1e-9) return fmax(falls_at(gap, speed, accel), 0);
        return accel < -1e-9 ? 0 : INFINITY;
    }
    return falls_at(gap, speed, accel);
}

int main(int argc, char **argv) {
    FILE *file = argc > 2 ? fopen(argv[1], "rb") : NULL;
    if (!file || fread(&h, sizeof h, 1, file) != 1) return 2;
    boxes = malloc(h.boxes * sizeof *boxes);
    start = malloc((h.columns * h.rows + 1) * sizeof *start);
    items = malloc(h.items * sizeof *items);
    held = malloc(h.ticks);
    track = malloc((h.ticks + 1) * sizeof *track);
    size_t read = fread(boxes, sizeof *boxes, h.boxes, file) + fread(start, sizeof *start, h.columns * h.rows + 1, file);
    read += fread(items, sizeof *items, h.items, file) + fread(held, 1, h.ticks, file);
    if (read != (size_t)(h.boxes + h.columns * h.rows + 1 + h.items + h.ticks)) return 2;
    fclose(file);
    memset(track, 0, (h.ticks + 1) * sizeof *track);

    double best = INFINITY;
    Row row = {0};
    for (int repeat = 0; repeat < atoi(argv[2]); repeat++) {
        struct timespec a, b;
        clock_gettime(CLOCK_MONOTONIC, &a);
        double x = h.x, y = h.y, vx = 0, vy = 0, air_since = 0, press_at = -1;
        int grounded = 0, coyote = 0, armed = 0, cut = 0, before = 0, count = 0;
        Contact contacts[MOST_CONTACTS];
        for (int64_t tick = 0; tick < h.ticks; tick++) {
            double begin = tick * h.dt, remaining = h.dt;
            int now_held = held[tick], pressed = now_held & ~before, released = before & ~now_held;
            double way = (double)((now_held & RIGHT) != 0) - ((now_held & LEFT) != 0);
            double target = way * (now_held & SPRINT ? h.sprint : h.walk);
            before = now_held;
            if (pressed & JUMP) { press_at = begin; armed = 1; }
            if (armed && begin - press_at > h.buffer + 1e-9) armed = 0;
            if (armed && (grounded || (coyote && (pressed & JUMP) && begin - air_since <= h.coyote + 1e-9))) {
                vy = h.jump_speed; grounded = 0; air_since = begin; coyote = 0; armed = 0; cut = 1;
            }
            if ((released & JUMP) && cut) { cut = 0; if (vy > 0) vy *= h.cut; }
            for (int segment = 0; segment < MOST_SEGMENTS; segment++) {
                double now = begin + (h.dt - remaining), ax, ay, goal, end, limit = remaining;
                int reason = 0, ground = NONE, leave = NONE, kept = 0;
                for (int i = 0; i < count; i++) {
                    if (vx * contacts[i].nx + vy * contacts[i].ny > 1e-9) continue;
                    contacts[kept++] = contacts[i];
                }
                count = kept;
                for (int i = 0; i < count; i++) if (contacts[i].ny == 1) ground = i;
                if (ground != NONE) {
                    ax = approach(vx, target, h.ground_accel, h.ground_brake, &goal, &end);
                    ay = 0; vy = 0; grounded = 1; coyote = 1; cut = 0; air_since = now;
                } else {
                    if (grounded) { grounded = 0; air_since = now; }
                    ax = approach(vx, target, h.air_accel, h.air_brake, &goal, &end);
                    ay = -vy >= h.terminal ? 0 : -h.gravity;
                }
                for (int i = 0; i < count; i++) {
                    if (contacts[i].nx && (ax * contacts[i].nx < 0 || vx * contacts[i].nx < 0)) { ax = 0; vx = 0; end = INFINITY; }
                }
                if (end <= limit) { limit = end; reason = 1; }
                if (ay < 0) {
                    double t = vy > 1e-9 ? vy / h.gravity : (h.terminal + vy) / h.gravity;
                    if (t <= limit) { limit = t; reason = vy > 1e-9 ? 2 : 3; }
                }
                for (int i = 0; i < count; i++) {
                    Box *box = boxes + contacts[i].box;
                    double low = contacts[i].nx ? y - box->y0 : x - box->x0, high = contacts[i].nx ? box->y1 - y : box->x1 - x;
                    double v = contacts[i].nx ? vy : vx, acc = contacts[i].nx ? ay : ax;
                    double t = low <= 0 && v < 0 ? 0 : low > 0 ? falls_at(low, v, acc) : INFINITY;
                    double u = high <= 0 && v > 0 ? 0 : high > 0 ? falls_at(high, -v, -acc) : INFINITY;
                    t = fmin(t, u);
                    if (t < limit * (1 - 1e-12)) { limit = t; reason = 4; leave = i; }
                }
                double depth = falls_at(y - h.lost_below, vy, ay);
                if (depth >= 0 && depth < limit) { limit = depth; reason = 5; }

                double hit = INFINITY, x0, x1, y0, y1;
                int64_t hit_box = NONE;
                int hit_nx = 0, hit_ny = 0;
                span(x, vx, ax, limit, &x0, &x1);
                span(y, vy, ay, limit, &y0, &y1);
                x0 -= 1e-6; x1 += 1e-6; y0 -= 1e-6; y1 += 1e-6;
                for (int r = floor_cell(y0, h.grid_y, h.rows); r <= floor_cell(y1, h.grid_y, h.rows); r++) {
                    for (int c = floor_cell(x0, h.grid_x, h.columns); c <= floor_cell(x1, h.grid_x, h.columns); c++) {
                        int64_t cell = r * h.columns + c;
                        for (int64_t k = start[cell]; k < start[cell + 1]; k++) {
                            Box *box = boxes + items[k];
                            if (box->x0 > x1 || box->x1 < x0 || box->y0 > y1 || box->y1 < y0) continue;
                            int known = 0;
                            for (int i = 0; i < count; i++) known |= contacts[i].box == items[k];
                            if (known) continue;
                            for (int side = 0; side < 4; side++) {
                                int nx = side == 0 ? -1 : side == 1 ? 1 : 0, ny = side == 2 ? -1 : side == 3 ? 1 : 0;
                                double gap = side == 0 ? box->x0 - x : side == 1 ? x - box->x1 : side == 2 ? box->y0 - y : y - box->y1;
                                double t = closes_at(gap, vx * nx + vy * ny, ax * nx + ay * ny);
                                if (!(t >= 0 && t <= limit && t < hit)) continue;
                                double px = x + t * (vx + 0.5 * ax * t), py = y + t * (vy + 0.5 * ay * t);
                                double low = nx ? py - box->y0 : px - box->x0, high = nx ? box->y1 - py : box->x1 - px;
                                double along = nx ? vy + ay * t : vx + ax * t;
                                if (low < -1e-6 || high < -1e-6) continue;
                                if ((low < 1e-6 && along <= 0) || (high < 1e-6 && along >= 0)) continue;
                                hit = t; hit_box = items[k]; hit_nx = nx; hit_ny = ny;
                            }
                        }
                    }
                }
                double t = fmin(hit, limit);
                x += t * (vx + 0.5 * ax * t);
                y += t * (vy + 0.5 * ay * t);
                vx += ax * t;
                vy += ay * t;
                remaining -= t;
                now = begin + (h.dt - remaining);
                if (hit <= limit) {
                    Box *box = boxes + hit_box;
                    if (hit_nx) { x = hit_nx < 0 ? box->x0 : box->x1; vx = 0; }
                    else { y = hit_ny < 0 ? box->y0 : box->y1; vy = 0; }
                    if (count == MOST_CONTACTS) count--;
                    contacts[count++] = (Contact){hit_box, hit_nx, hit_ny};
                    if (hit_ny == 1) {
                        grounded = 1;
                        if (armed && now - press_at <= h.buffer + 1e-9) {
                            vy = h.jump_speed; grounded = 0; air_since = now; coyote = 0; armed = 0; cut = 1;
                            if (!(now_held & JUMP)) { cut = 0; vy *= h.cut; }
                        }
                    }
                } else if (reason == 0) break;
                else if (reason == 1) vx = goal;
                else if (reason == 2) { vy = 0; cut = 0; }
                else if (reason == 3) vy = -h.terminal;
                else if (reason == 4) contacts[leave] = contacts[--count];
                else { x = h.x; y = h.y; vx = vy = 0; count = 0; grounded = 0; coyote = 0; air_since = now; }
                if (remaining <= 0) break;
            }
            row = (Row){x, y, vx, vy, NONE, grounded};
            for (int i = 0; i < count; i++) if (contacts[i].ny == 1) row.support = contacts[i].box;
            track[tick + 1] = row;
        }
        clock_gettime(CLOCK_MONOTONIC, &b);
        double seconds = (b.tv_sec - a.tv_sec) + 1e-9 * (b.tv_nsec - a.tv_nsec);
        if (seconds < best) best = seconds;
    }
    printf("%.9f %.9f %.9f\n", best, row.x, row.y);
    return 0;
}
