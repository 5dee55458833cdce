#version 330 core
// Paper floor with a metre grid, every fifth line heavier, fading into the distance.
uniform vec3 near_paper;
uniform vec3 far_paper;
uniform vec3 line;
uniform vec3 eye;
uniform float opacity;
in vec3 world;
out vec4 colour;

float ruled(vec2 at, float every, float width) {
    vec2 part = abs(fract(at / every - 0.5) - 0.5) * every;
    vec2 soft = fwidth(at) * width;
    vec2 hit = 1.0 - smoothstep(soft * 0.5, soft * 1.2, part);
    hit *= clamp(every / (fwidth(at) * 6.0) - 0.5, 0.0, 1.0);
    return max(hit.x, hit.y);
}

void main() {
    float away = length(world.xz - eye.xz);
    float fade = clamp(1.0 - away / 26.0, 0.0, 1.0);
    vec3 shade = mix(far_paper, near_paper, clamp(1.25 - away / 9.0, 0.0, 1.0));
    float ink = max(ruled(world.xz, 1.0, 0.8) * 0.75, ruled(world.xz, 5.0, 1.2)) * fade;
    colour = vec4(mix(shade, line, ink), opacity);
}
